// Normal equations of one Gauss-Newton step of image registration, inverse compositional (Baker and Matthews 2004).
// Template `c` with votes `cw`, image `l` with votes `lw`, all w x h; `m` maps template to image pixels (doubles).
// Positions count from the centre in half widths. `out` ends with four sums: votes, votes |r|, votes r * r, samples.

/** Puts r, vote, gx, gy, X, Y of one sample at `at`; false where it has no say. */
// @ts-ignore: decorator
@inline
function sample(c: usize, cw: usize, l: usize, lw: usize, w: i32, h: i32, x: i32, y: i32, m: usize, offset: f32, inv: f32, at: usize): bool {
  const p = <usize>(y * w + x) << 2, row = <usize>w << 2;
  const tw = load<f32>(cw + p);
  if (tw < 0.01) return false;
  const gx = (load<f32>(c + p + 4) - load<f32>(c + p - 4)) * 0.5;
  const gy = (load<f32>(c + p + row) - load<f32>(c + p - row)) * 0.5;
  // flat places say nothing of motion
  if (abs<f32>(gx) + abs<f32>(gy) < 0.012) return false;
  const px = <f64>x + 0.5, py = <f64>y + 0.5;
  const z = 1.0 / (load<f64>(m, 48) * px + load<f64>(m, 56) * py + load<f64>(m, 64));
  const sx = (load<f64>(m) * px + load<f64>(m, 8) * py + load<f64>(m, 16)) * z - 0.5;
  const sy = (load<f64>(m, 24) * px + load<f64>(m, 32) * py + load<f64>(m, 40)) * z - 0.5;
  const fx = floor(sx), fy = floor(sy);
  const ix = <i32>fx, iy = <i32>fy;
  if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) return false;
  const ax = <f32>(sx - fx), ay = <f32>(sy - fy);
  const q = <usize>(iy * w + ix) << 2, q2 = q + row;
  const v0 = load<f32>(lw + q), v1 = load<f32>(lw + q + 4), v2 = load<f32>(lw + q2), v3 = load<f32>(lw + q2 + 4);
  const va = v0 < v1 ? v0 : v1, vb = v2 < v3 ? v2 : v3, iw = va < vb ? va : vb;
  if (iw < 0.01) return false;
  const top = load<f32>(l + q) + (load<f32>(l + q + 4) - load<f32>(l + q)) * ax;
  const bot = load<f32>(l + q2) + (load<f32>(l + q2 + 4) - load<f32>(l + q2)) * ax;
  const r = top + (bot - top) * ay + offset - load<f32>(c + p);
  const e = r * inv;
  // Geman-McClure: what moved in the scene loses its vote
  const rob: f32 = 1 / (1 + e * e);
  const k = 2.0 / <f64>w;
  store<f64>(at, r); store<f64>(at, <f64>(tw * iw / (tw + iw) * rob * rob), 8); store<f64>(at, gx, 16); store<f64>(at, gy, 24);
  store<f64>(at, (px - 0.5 * <f64>w) * k, 32); store<f64>(at, (py - 0.5 * <f64>h) * k, 40);
  return true;
}

// @ts-ignore: decorator
@inline
function add(at: usize, v: f64): void { store<f64>(at, load<f64>(at) + v); }

/**
 * For the eight parameters of a homography and a brightness offset: 45 upper-triangle sums, 9 right-hand sums, the
 * four; behind them 15 doubles of scratch.
 */
export function normalEquations(c: usize, cw: usize, l: usize, lw: usize, w: i32, h: i32, m: usize, offset: f32, scale: f32, step: i32, out: usize): void {
  memory.fill(out, 0, 464);
  const inv: f32 = 1 / scale, s = out + 464, j = out + 512;
  for (let y = 1; y < h - 1; y += step) for (let x = 1; x < w - 1; x++) {
    if (!sample(c, cw, l, lw, w, h, x, y, m, offset, inv, s)) continue;
    const r = load<f64>(s), wt = load<f64>(s, 8), a = load<f64>(s, 16), b = load<f64>(s, 24), X = load<f64>(s, 32), Y = load<f64>(s, 40);
    const d = a * X + b * Y;
    store<f64>(j, a * X); store<f64>(j, a * Y, 8); store<f64>(j, a, 16); store<f64>(j, b * X, 24); store<f64>(j, b * Y, 32); store<f64>(j, b, 40);
    store<f64>(j, -d * X, 48); store<f64>(j, -d * Y, 56); store<f64>(j, 1, 64);
    let o = out;
    for (let i = 0; i < 9; i++) {
      const ji = load<f64>(j + (<usize>i << 3)) * wt;
      for (let n = i; n < 9; n++) { add(o, ji * load<f64>(j + (<usize>n << 3))); o += 8; }
      add(out + 360 + (<usize>i << 3), ji * r);
    }
    add(out + 432, wt); add(out + 440, wt * abs(r)); add(out + 448, wt * r * r); add(out + 456, 1);
  }
}

/** For growth, roll, shift x, shift y and the offset: 15 upper-triangle sums, 5 right-hand sums, the four; then scratch. */
export function similarityEquations(c: usize, cw: usize, l: usize, lw: usize, w: i32, h: i32, m: usize, offset: f32, scale: f32, step: i32, out: usize): void {
  const inv: f32 = 1 / scale, s = out + 464;
  let s00 = 0.0, s01 = 0.0, s02 = 0.0, s03 = 0.0, s04 = 0.0, s11 = 0.0, s12 = 0.0, s13 = 0.0, s14 = 0.0, s22 = 0.0, s23 = 0.0, s24 = 0.0, s33 = 0.0, s34 = 0.0;
  let r0 = 0.0, r1 = 0.0, r2 = 0.0, r3 = 0.0, r4 = 0.0, votes = 0.0, absolute = 0.0, square = 0.0, count = 0.0;
  for (let y = 1; y < h - 1; y += step) for (let x = 1; x < w - 1; x++) {
    if (!sample(c, cw, l, lw, w, h, x, y, m, offset, inv, s)) continue;
    const r = load<f64>(s), wt = load<f64>(s, 8), a = load<f64>(s, 16), b = load<f64>(s, 24), X = load<f64>(s, 32), Y = load<f64>(s, 40);
    const p = a * X + b * Y, q = b * X - a * Y, wp = wt * p, wq = wt * q, wa = wt * a, wb = wt * b, wr = wt * r;
    s00 += wp * p; s01 += wp * q; s02 += wp * a; s03 += wp * b; s04 += wp;
    s11 += wq * q; s12 += wq * a; s13 += wq * b; s14 += wq;
    s22 += wa * a; s23 += wa * b; s24 += wa; s33 += wb * b; s34 += wb;
    r0 += wp * r; r1 += wq * r; r2 += wa * r; r3 += wb * r; r4 += wr;
    votes += wt; absolute += wt * abs(r); square += wr * r; count += 1;
  }
  store<f64>(out, s00); store<f64>(out, s01, 8); store<f64>(out, s02, 16); store<f64>(out, s03, 24); store<f64>(out, s04, 32);
  store<f64>(out, s11, 40); store<f64>(out, s12, 48); store<f64>(out, s13, 56); store<f64>(out, s14, 64);
  store<f64>(out, s22, 72); store<f64>(out, s23, 80); store<f64>(out, s24, 88); store<f64>(out, s33, 96); store<f64>(out, s34, 104); store<f64>(out, votes, 112);
  store<f64>(out, r0, 120); store<f64>(out, r1, 128); store<f64>(out, r2, 136); store<f64>(out, r3, 144); store<f64>(out, r4, 152);
  store<f64>(out, votes, 160); store<f64>(out, absolute, 168); store<f64>(out, square, 176); store<f64>(out, count, 184);
}
