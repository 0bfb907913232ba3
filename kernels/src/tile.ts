import { taps, whole, lean, mixed, tapped, sum4 } from "./resample";

/**
 * The sample of one tile row (`line` of tw samples, the first at tx) at x, with the validity of the
 * four it is made of.
 */
// @ts-ignore: decorator
@inline
export function across(line: usize, tx: i32, tw: i32, x: f64): v128 {
  return acrossAt(line, x, floor(x), max(1, min(tw - 3, whole(floor(x)) - tx)));
}
// @ts-ignore: decorator
@inline
function acrossAt(line: usize, x: f64, f: f64, i: i32): v128 {
  const a = line + ((<usize>(i - 1)) << 4);
  const own = v128.load(a, 16);
  // clipped: its value is only a bound, for which a line does
  if (f32x4.extract_lane(own, 3) == 0)
    return f32x4.replace_lane(mixed(own, v128.load(a, 32), <f32>(x - f)), 3, 0);
  const w = taps(<f32>(x - f));
  return v128.shuffle<f32>(tapped(a, w), own, 0, 1, 2, 7);
}

/** Four rows' samples at a fraction of the way from the second to the third. */
// @ts-ignore: decorator
@inline
export function between(a: v128, b: v128, c: v128, d: v128, t: f32): v128 {
  const v = f32x4.pmin(f32x4.pmin(a, b), f32x4.pmin(c, d));
  const w = taps(t);
  if (f32x4.extract_lane(v, 3) == 0) return f32x4.replace_lane(mixed(b, c, t), 3, 0);
  return v128.shuffle<f32>(
    f32x4.pmax(
      sum4(
        a,
        b,
        c,
        d,
        v128.load32_splat(w),
        v128.load32_splat(w, 4),
        v128.load32_splat(w, 8),
        v128.load32_splat(w, 12),
      ),
      f32x4.splat(0),
    ),
    v,
    0,
    1,
    2,
    7,
  );
}

/**
 * All rows of a tile (tw x th eroded samples, the first at tx, ty) sampled across where the
 * reference's columns x0 .. x0 + n cross them, for an upright mapping; th rows of n samples to
 * `dst`.
 */
export function acrossTile(
  tile: usize,
  tx: i32,
  ty: i32,
  tw: i32,
  th: i32,
  x0: i32,
  n: i32,
  h: usize,
  dst: usize,
): void {
  const k = lean(h);
  const ax = load<f64>(h) - k * load<f64>(h, 24);
  const a0 = load<f64>(h, 16) - k * load<f64>(h, 40);
  for (let r = 0; r < th; r++) {
    const line = tile + ((<usize>(r * tw)) << 4);
    const base = k * (<f64>(ty + r) + 0.5) + a0;
    // where both ends lie in the tile, all between them do
    const first = ax * (<f64>x0 + 0.5) + base - 0.5;
    const last = ax * (<f64>(x0 + n - 1) + 0.5) + base - 0.5;
    if (first >= <f64>(tx + 1) && last < <f64>(tx + tw - 2)) {
      for (let i = 0; i < n; i++, dst += 16) {
        const x = ax * (<f64>(x0 + i) + 0.5) + base - 0.5;
        const f = floor(x);
        v128.store(dst, acrossAt(line, x, f, whole(f) - tx));
      }
    } else
      for (let i = 0; i < n; i++, dst += 16)
        v128.store(dst, across(line, tx, tw, ax * (<f64>(x0 + i) + 0.5) + base - 0.5));
  }
}

/**
 * Pixels x0 .. x0 + n of row y from what acrossTile made for the columns from `left` on, `stride`
 * of them; else as resampleBicubic.
 */
export function downRow(
  block: usize,
  left: i32,
  ty: i32,
  stride: i32,
  srcW: i32,
  srcH: i32,
  y: i32,
  x0: i32,
  n: i32,
  h: usize,
  dst: usize,
): void {
  const py = <f64>y + 0.5;
  const h0 = load<f64>(h);
  const h3 = load<f64>(h, 24);
  const bx = load<f64>(h, 8) * py + load<f64>(h, 16);
  const by = load<f64>(h, 32) * py + load<f64>(h, 40);
  const right = <f64>srcW - 0.5;
  const bottom = <f64>srcH - 0.5;
  const line = (<usize>stride) << 4;
  // where both ends lie in the frame, all between them do
  const p = <f64>x0 + 0.5;
  const q = <f64>(x0 + n - 1) + 0.5;
  const u = h0 * p + bx - 0.5;
  const v = h3 * p + by - 0.5;
  const s = h0 * q + bx - 0.5;
  const t = h3 * q + by - 0.5;
  const inside =
    min(u, s) >= -0.5 && max(u, s) <= right && min(v, t) >= -0.5 && max(v, t) <= bottom;
  for (let i = 0; i < n; i++, dst += 16) {
    const px = <f64>(x0 + i) + 0.5;
    const sy = h3 * px + by - 0.5;
    if (!inside) {
      const sx = h0 * px + bx - 0.5;
      if (!(sx >= -0.5 && sy >= -0.5 && sx <= right && sy <= bottom)) {
        v128.store(dst, f32x4(0, 0, 0, -1));
        continue;
      }
    }
    const fy = floor(sy);
    const a = block + <usize>(whole(fy) - ty - 1) * line + ((<usize>(x0 + i - left)) << 4);
    const b = a + line;
    const c = b + line;
    v128.store(
      dst,
      between(v128.load(a), v128.load(b), v128.load(c), v128.load(c + line), <f32>(sy - fy)),
    );
  }
}
