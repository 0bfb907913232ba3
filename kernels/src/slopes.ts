// Sums over blocks of two pictures that lie on each other: what their slopes and their difference
// say of a shift, of blur and of light.

/**
 * Doubles a block: the count, products of slope along x and y, Laplacian (l), one and difference
 * (e), and the light: n xx xy xl x1 xe yy yl y1 ye ll l1 le e1 ee light.
 */
const SUMS: i32 = 16;

/**
 * Sums of `blocks` x `lines` blocks of side x side px, the first of them `rim` px from the corner,
 * of planes of light `a` and `b` of w x h with confidences `va` and `vb`; what has less than
 * `least` of a confidence says nothing. `m`: nine doubles, px of the first to px of the second.
 */
export function blockSlopes(
  a: usize,
  va: usize,
  b: usize,
  vb: usize,
  w: i32,
  h: i32,
  m: usize,
  rim: i32,
  side: i32,
  blocks: i32,
  lines: i32,
  least: f32,
  out: usize,
): void {
  for (let v = 0; v < lines; v++)
    for (let u = 0; u < blocks; u++, out += SUMS << 3)
      sumsOf(a, va, b, vb, w, h, m, rim + u * side, rim + v * side, side, least, out);
}

function sumsOf(
  A: usize,
  VA: usize,
  B: usize,
  VB: usize,
  w: i32,
  h: i32,
  m: usize,
  left: i32,
  top: i32,
  side: i32,
  least: f32,
  out: usize,
): void {
  const m0 = load<f64>(m);
  const m1 = load<f64>(m, 8);
  const m2 = load<f64>(m, 16);
  const m3 = load<f64>(m, 24);
  const m4 = load<f64>(m, 32);
  const m5 = load<f64>(m, 40);
  const m6 = load<f64>(m, 48);
  const m7 = load<f64>(m, 56);
  const m8 = load<f64>(m, 64);
  const row = (<usize>w) << 2;
  let n = 0.0;
  let xx = 0.0;
  let xy = 0.0;
  let xl = 0.0;
  let x1 = 0.0;
  let xe = 0.0;
  let yy = 0.0;
  let yl = 0.0;
  let y1 = 0.0;
  let ye = 0.0;
  let ll = 0.0;
  let l1 = 0.0;
  let le = 0.0;
  let e1 = 0.0;
  let ee = 0.0;
  let light = 0.0;
  for (let y = top; y < top + side; y++)
    for (let x = left; x < left + side; x++) {
      const i = (<usize>(y * w + x)) << 2;
      const p = A + i;
      if (load<f32>(VA + i) < least) continue;
      const X = <f64>x + 0.5;
      const Y = <f64>y + 0.5;
      const d = m6 * X + m7 * Y + m8;
      const px = (m0 * X + m1 * Y + m2) / d - 0.5;
      const py = (m3 * X + m4 * Y + m5) / d - 0.5;
      if (!(px >= 1 && py >= 1 && px < <f64>(w - 2) && py < <f64>(h - 2))) continue;
      const ix = <i32>px;
      const iy = <i32>py;
      const k = (<usize>(iy * w + ix)) << 2;
      const q = B + k;
      const z = VB + k;
      if (
        min(min(load<f32>(z), load<f32>(z, 4)), min(load<f32>(z + row), load<f32>(z + row, 4))) <
        least
      )
        continue;
      const fx = px - <f64>ix;
      const fy = py - <f64>iy;
      const own = <f64>load<f32>(p);
      const west = <f64>load<f32>(p - 4);
      const east = <f64>load<f32>(p + 4);
      const north = <f64>load<f32>(p - row);
      const south = <f64>load<f32>(p + row);
      const b00 = <f64>load<f32>(q);
      const b10 = <f64>load<f32>(q, 4);
      const b01 = <f64>load<f32>(q + row);
      const b11 = <f64>load<f32>(q + row, 4);
      const there = (b00 * (1 - fx) + b10 * fx) * (1 - fy) + (b01 * (1 - fx) + b11 * fx) * fy;
      // slopes of both in the mean: noise of one draws a shift towards nothing, blur of one towards
      // its own
      const gx =
        (east -
          west +
          (b10 - <f64>load<f32>(q - 4)) * (1 - fx) +
          (<f64>load<f32>(q, 8) - b00) * fx) /
        4;
      const gy =
        (south -
          north +
          (b01 - <f64>load<f32>(q - row)) * (1 - fy) +
          (<f64>load<f32>(q + 2 * row) - b00) * fy) /
        4;
      const l = west + east + north + south - 4 * own;
      const e = own - there;
      n += 1;
      xx += gx * gx;
      xy += gx * gy;
      xl += gx * l;
      x1 += gx;
      xe += gx * e;
      yy += gy * gy;
      yl += gy * l;
      y1 += gy;
      ye += gy * e;
      ll += l * l;
      l1 += l;
      le += l * e;
      e1 += e;
      ee += e * e;
      light += own;
    }
  store<f64>(out, n);
  store<f64>(out, xx, 8);
  store<f64>(out, xy, 16);
  store<f64>(out, xl, 24);
  store<f64>(out, x1, 32);
  store<f64>(out, xe, 40);
  store<f64>(out, yy, 48);
  store<f64>(out, yl, 56);
  store<f64>(out, y1, 64);
  store<f64>(out, ye, 72);
  store<f64>(out, ll, 80);
  store<f64>(out, l1, 88);
  store<f64>(out, le, 96);
  store<f64>(out, e1, 104);
  store<f64>(out, ee, 112);
  store<f64>(out, light, 120);
}
