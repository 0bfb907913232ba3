// Registration of a template to an image of log radiance, both w x h planes with confidences; `m`
// maps template to image pixels (nine doubles, row-major).

/**
 * Floats a selected sample takes: x, y (px), value, confidence, gradient x, gradient y, and x, y
 * from the centre in half widths.
 */
const SAMPLE: usize = 32;

/** Whether the slope at a px reaches over the border of two blocks. */
// @ts-ignore: decorator
@inline
function onBorder(x: i32, block: i32): bool {
  if (block < 4) return false;
  const within = x % block;
  return within == 0 || within == block - 1;
}

// @ts-ignore: decorator
@inline
function putSample(c: usize, cw: usize, w: i32, h: i32, x: i32, y: i32, out: usize): void {
  const p = (<usize>(y * w + x)) << 2;
  const row = (<usize>w) << 2;
  const k: f32 = 2.0 / <f32>w;
  store<f32>(out, <f32>x);
  store<f32>(out, <f32>y, 4);
  store<f32>(out, load<f32>(c + p), 8);
  store<f32>(out, load<f32>(cw + p), 12);
  store<f32>(out, (load<f32>(c + p + 4) - load<f32>(c + p - 4)) * 0.5, 16);
  store<f32>(out, (load<f32>(c + p + row) - load<f32>(c + p - row)) * 0.5, 20);
  store<f32>(out, (<f32>x + 0.5 - 0.5 * <f32>w) * k, 24);
  store<f32>(out, (<f32>y + 0.5 - 0.5 * <f32>h) * k, 28);
}

/**
 * Picks the template's samples within [x0, x1) x [y0, y1) that say most of motion: in each cell of
 * cell x cell pixels the one of the steepest trusted slope (selective pixel integration, Dellaert
 * and Collins 1999). Flat places say nothing and give none, unless `middles` asks for the middle of
 * every cell as well, which tells the light there. Slopes across the border of two of a file's
 * blocks of `block` px (0 for none) may be the packing's own and are not taken. `out` has room for
 * one sample a cell, or two; returns their number.
 */
export function selectSamples(
  c: usize,
  cw: usize,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  cell: i32,
  middles: i32,
  block: i32,
  out: usize,
): i32 {
  let count = 0;
  const row = (<usize>w) << 2;
  const right = min(w - 1, x1);
  const bottom = min(h - 1, y1);
  for (let cy = max(1, y0); cy < bottom; cy += cell)
    for (let cx = max(1, x0); cx < right; cx += cell) {
      const ex = min(right, cx + cell);
      const ey = min(bottom, cy + cell);
      let best: f32 = 0;
      let bx = 0;
      let by = 0;
      for (let y = cy; y < ey; y++) {
        if (onBorder(y, block)) continue;
        for (let x = cx; x < ex; x += 4) {
          // a slope is as good as the least of what it is taken from: beside what is clipped it is
          // too small
          const p = c + ((<usize>(y * w + x)) << 2);
          const q = p - c + cw;
          const confidence = f32x4.pmin(
            v128.load(q),
            f32x4.pmin(
              f32x4.pmin(v128.load(q, 4), v128.load(q - 4)),
              f32x4.pmin(v128.load(q + row), v128.load(q - row)),
            ),
          );
          const steep = f32x4.add(
            f32x4.abs(f32x4.sub(v128.load(p, 4), v128.load(p - 4))),
            f32x4.abs(f32x4.sub(v128.load(p + row), v128.load(p - row))),
          );
          const held = v128.and(
            f32x4.mul(steep, confidence),
            v128.and(f32x4.ge(confidence, f32x4.splat(0.01)), f32x4.ge(steep, f32x4.splat(0.024))),
          );
          // few are steeper than what a cell has so far
          if (!v128.any_true(f32x4.gt(held, f32x4.splat(best)))) continue;
          // where the next sample goes is free until then
          v128.store(out, held);
          for (let k = 0; k < min(4, ex - x); k++) {
            const v = load<f32>(out + ((<usize>k) << 2));
            if (v > best && !onBorder(x + k, block)) {
              best = v;
              bx = x + k;
              by = y;
            }
          }
        }
      }
      if (best > 0) {
        putSample(c, cw, w, h, bx, by, out);
        out += SAMPLE;
        count++;
      }
      if (!middles) continue;
      let mx = (cx + ex) >> 1;
      let my = (cy + ey) >> 1;
      if (onBorder(mx, block)) mx += 2;
      if (onBorder(my, block)) my += 2;
      if (mx >= right || my >= bottom) continue;
      if (
        (mx != bx || my != by || best == 0) &&
        load<f32>(cw + ((<usize>(my * w + mx)) << 2)) >= 0.01
      ) {
        putSample(c, cw, w, h, mx, my, out);
        out += SAMPLE;
        count++;
      }
    }
  return count;
}

/**
 * Tries all shifts of up to `reach` px for `count` samples of the template at their places (row * w
 * + column), once they are turned to turnedX, turnedY: mean difference, no more than one EV each,
 * by both confidences. A little is added for each px of shift and for `rolled`, so that of equals
 * the smallest motion wins. `best` holds the least score so far, then the shift across and down,
 * and is written where a shift is better.
 */
export function bestShift(
  places: usize,
  turnedX: usize,
  turnedY: usize,
  count: i32,
  c: usize,
  cw: usize,
  l: usize,
  lw: usize,
  w: i32,
  h: i32,
  reach: i32,
  rolled: f64,
  best: usize,
): i32 {
  let found = 0;
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) {
      let sum = 0.0;
      let confidences = 0.0;
      for (let p: usize = 0; p < (<usize>count) << 2; p += 4) {
        const x = load<i32>(turnedX + p) + dx;
        const y = load<i32>(turnedY + p) + dy;
        if (x < 0 || y < 0 || x >= w || y >= h) continue;
        const i = (<usize>load<i32>(places + p)) << 2;
        const k = (<usize>(y * w + x)) << 2;
        const wt = <f64>load<f32>(cw + i) * <f64>load<f32>(lw + k);
        if (wt < 0.0025) continue;
        sum += wt * min<f64>(1, abs<f64>(<f64>load<f32>(l + k) - <f64>load<f32>(c + i)));
        confidences += wt;
      }
      const score =
        sum / max<f64>(confidences, 1e-9) +
        1e-4 * (sqrt<f64>(<f64>(dx * dx + dy * dy)) + rolled) +
        (confidences < 20 ? 1.0 : 0.0);
      if (score < load<f64>(best)) {
        store<f64>(best, score);
        store<f64>(best, <f64>dx, 8);
        store<f64>(best, <f64>dy, 16);
        found = 1;
      }
    }
  return found;
}

/**
 * Puts the difference r and the robust confidence of one selected sample at `at`; false where the
 * image has no say.
 */
// @ts-ignore: decorator
@inline
function compare(
  s: usize,
  l: usize,
  lw: usize,
  w: i32,
  h: i32,
  m: usize,
  offset: f32,
  inv: f32,
  at: usize,
): bool {
  const px = <f64>load<f32>(s) + 0.5;
  const py = <f64>load<f32>(s, 4) + 0.5;
  const d = load<f64>(m, 48) * px + load<f64>(m, 56) * py + load<f64>(m, 64);
  const z = d == 1 ? 1.0 : 1.0 / d;
  const sx = (load<f64>(m) * px + load<f64>(m, 8) * py + load<f64>(m, 16)) * z - 0.5;
  const sy = (load<f64>(m, 24) * px + load<f64>(m, 32) * py + load<f64>(m, 40)) * z - 0.5;
  const fx = floor(sx);
  const fy = floor(sy);
  const ix = <i32>fx;
  const iy = <i32>fy;
  if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) return false;
  const ax = <f32>(sx - fx);
  const ay = <f32>(sy - fy);
  const q = (<usize>(iy * w + ix)) << 2;
  const q2 = q + ((<usize>w) << 2);
  const v0 = load<f32>(lw + q);
  const v1 = load<f32>(lw + q + 4);
  const v2 = load<f32>(lw + q2);
  const v3 = load<f32>(lw + q2 + 4);
  const va = v0 < v1 ? v0 : v1;
  const vb = v2 < v3 ? v2 : v3;
  const iw = va < vb ? va : vb;
  if (iw < 0.01) return false;
  const top = load<f32>(l + q) + (load<f32>(l + q + 4) - load<f32>(l + q)) * ax;
  const bot = load<f32>(l + q2) + (load<f32>(l + q2 + 4) - load<f32>(l + q2)) * ax;
  const r = top + (bot - top) * ay + offset - load<f32>(s, 8);
  const e = r * inv;
  const tw = load<f32>(s, 12);
  // Geman-McClure: what moved in the scene loses its confidence
  const rob: f32 = 1 / (1 + e * e);
  store<f64>(at, r);
  store<f64>(at, <f64>(((tw * iw) / (tw + iw)) * rob * rob), 8);
  return true;
}

// @ts-ignore: decorator
@inline
function add(at: usize, v: f64): void {
  store<f64>(at, load<f64>(at) + v);
}

/**
 * Normal equations of one Gauss-Newton step over the selected samples, inverse compositional (Baker
 * and Matthews 2004), for the eight parameters of a homography and a brightness offset: 45
 * upper-triangle sums, 9 right-hand sums, then confidences, confidences |r|, confidences r * r,
 * samples; behind them 11 doubles of scratch.
 */
export function normalEquations(
  samples: usize,
  count: i32,
  l: usize,
  lw: usize,
  w: i32,
  h: i32,
  m: usize,
  offset: f32,
  scale: f32,
  out: usize,
): void {
  memory.fill(out, 0, 464);
  const inv: f32 = 1 / scale;
  const s = out + 464;
  const j = out + 480;
  for (let i = 0; i < count; i++, samples += SAMPLE) {
    if (!compare(samples, l, lw, w, h, m, offset, inv, s)) continue;
    const r = load<f64>(s);
    const wt = load<f64>(s, 8);
    const a = <f64>load<f32>(samples, 16);
    const b = <f64>load<f32>(samples, 20);
    const X = <f64>load<f32>(samples, 24);
    const Y = <f64>load<f32>(samples, 28);
    const d = a * X + b * Y;
    store<f64>(j, a * X);
    store<f64>(j, a * Y, 8);
    store<f64>(j, a, 16);
    store<f64>(j, b * X, 24);
    store<f64>(j, b * Y, 32);
    store<f64>(j, b, 40);
    store<f64>(j, -d * X, 48);
    store<f64>(j, -d * Y, 56);
    store<f64>(j, 1, 64);
    let o = out;
    for (let n = 0; n < 9; n++) {
      const jn = load<f64>(j + ((<usize>n) << 3)) * wt;
      for (let p = n; p < 9; p++) {
        add(o, jn * load<f64>(j + ((<usize>p) << 3)));
        o += 8;
      }
      add(out + 360 + ((<usize>n) << 3), jn * r);
    }
    add(out + 432, wt);
    add(out + 440, wt * abs(r));
    add(out + 448, wt * r * r);
    add(out + 456, 1);
  }
}

/**
 * The same for growth, roll, shift x, shift y and the offset: 15 upper-triangle sums, 5 right-hand
 * sums, the four; then scratch.
 */
export function similarityEquations(
  samples: usize,
  count: i32,
  l: usize,
  lw: usize,
  w: i32,
  h: i32,
  m: usize,
  offset: f32,
  scale: f32,
  out: usize,
): void {
  const inv: f32 = 1 / scale;
  const s = out + 464;
  let pp = f64x2.splat(0);
  let pa = pp;
  let qa = pp;
  let aa = pp;
  let squares = pp;
  let p1 = pp;
  let a1 = pp;
  let pr = pp;
  let ar = pp;
  let r1 = pp;
  let rr = pp;
  let seen = 0.0;
  for (let i = 0; i < count; i++, samples += SAMPLE) {
    if (!compare(samples, l, lw, w, h, m, offset, inv, s)) continue;
    const r = load<f64>(s);
    const wt = load<f64>(s, 8);
    const rx2 = f64x2.splat(r);
    const wx2 = f64x2.splat(wt);
    const A = f64x2.promote_low_f32x4(v128.load64_zero(samples, 16));
    const a = f64x2.extract_lane(A, 0);
    const b = f64x2.extract_lane(A, 1);
    const X = <f64>load<f32>(samples, 24);
    const Y = <f64>load<f32>(samples, 28);
    // growth and roll, then the two shifts, each pair weighed
    const q = b * X - a * Y;
    const P = f64x2.replace_lane(f64x2.splat(a * X + b * Y), 1, q);
    const WP = f64x2.mul(P, wx2);
    const WA = f64x2.mul(A, wx2);
    const wp = f64x2.splat(f64x2.extract_lane(WP, 0));
    const wq = f64x2.extract_lane(WP, 1);
    const wb = f64x2.extract_lane(WA, 1);
    pp = f64x2.add(pp, f64x2.mul(wp, P));
    pa = f64x2.add(pa, f64x2.mul(wp, A));
    qa = f64x2.add(qa, f64x2.mul(f64x2.splat(wq), A));
    aa = f64x2.add(aa, f64x2.mul(f64x2.splat(f64x2.extract_lane(WA, 0)), A));
    squares = f64x2.add(squares, f64x2.replace_lane(f64x2.splat(wq * q), 1, wb * b));
    p1 = f64x2.add(p1, WP);
    a1 = f64x2.add(a1, WA);
    pr = f64x2.add(pr, f64x2.mul(WP, rx2));
    ar = f64x2.add(ar, f64x2.mul(WA, rx2));
    const wr = wt * r;
    r1 = f64x2.add(r1, f64x2.replace_lane(wx2, 0, wr));
    rr = f64x2.add(rr, f64x2.replace_lane(f64x2.splat(wt * abs(r)), 1, wr * r));
    seen += 1;
  }
  const confidences = f64x2.extract_lane(r1, 1);
  v128.store(out, pp);
  v128.store(out, pa, 16);
  store<f64>(out, f64x2.extract_lane(p1, 0), 32);
  store<f64>(out, f64x2.extract_lane(squares, 0), 40);
  v128.store(out, qa, 48);
  store<f64>(out, f64x2.extract_lane(p1, 1), 64);
  v128.store(out, aa, 72);
  store<f64>(out, f64x2.extract_lane(a1, 0), 88);
  store<f64>(out, f64x2.extract_lane(squares, 1), 96);
  store<f64>(out, f64x2.extract_lane(a1, 1), 104);
  store<f64>(out, confidences, 112);
  v128.store(out, pr, 120);
  v128.store(out, ar, 136);
  store<f64>(out, f64x2.extract_lane(r1, 0), 152);
  store<f64>(out, confidences, 160);
  v128.store(out, rr, 168);
  store<f64>(out, seen, 184);
}
