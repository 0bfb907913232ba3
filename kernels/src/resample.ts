import { across, between } from "./tile";

// Frames sampled between their pixels. Samples are interleaved R, G, B, validity (16 bytes); four
// taps each way (Keys 1981).

/**
 * Fractions of a pixel that resampling tells apart: a table of weights that stays in the
 * first-level cache.
 */
export const FRACTIONS = 1024;
/**
 * Catmull-Rom weights of the four taps around each fraction (Keys 1981, a = -1/2), four floats
 * each.
 */
export const TAPS = memory.data((FRACTIONS + 1) * 16, 16);
for (let i = 0; i <= FRACTIONS; i++) {
  const t = f32x4.splat(<f32>i / <f32>FRACTIONS);
  v128.store(
    TAPS + ((<usize>i) << 4),
    f32x4.add(
      f32x4(0, 1, 0, 0),
      f32x4.mul(
        t,
        f32x4.add(
          f32x4(-0.5, 0, 0.5, 0),
          f32x4.mul(
            t,
            f32x4.add(f32x4(1, -2.5, 2, -0.5), f32x4.mul(t, f32x4(-0.5, 1.5, -1.5, 0.5))),
          ),
        ),
      ),
    ),
  );
}
// @ts-ignore: decorator
@inline
export function taps(t: f32): usize {
  return TAPS + ((<usize>(reinterpret<u32>(t * <f32>FRACTIONS + 12582912.0) & 2047)) << 4);
}

/**
 * A whole number as an integer: its last bits once it is so large that it has no fraction, which
 * spares the checks of a conversion.
 */
// @ts-ignore: decorator
@inline
export function whole(f: f64): i32 {
  return <i32>reinterpret<u64>(f + 6755399441055744.0);
}

/**
 * Whether a mapping (reference to frame, row-major doubles) is so nearly upright that it may be
 * sampled across and then down: its rows are sampled where the reference's columns cross them, and
 * between those lies the picture.
 *
 * See Catmull and Smith, "3-D transformations of images in scanline order", SIGGRAPH 1980.
 */
export function isUpright(h: usize): i32 {
  const down = load<f64>(h, 32);
  const turn = 0.08 * down;
  return load<f64>(h, 48) == 0 &&
    load<f64>(h, 56) == 0 &&
    load<f64>(h, 64) == 1 &&
    down > 0.5 &&
    abs(load<f64>(h, 8)) < turn &&
    abs(load<f64>(h, 24)) < turn
    ? 1
    : 0;
}

/** What lies between two samples is at least so bright as this share of the darker one. */
const LEAST: f32 = 0.85;

/**
 * A weighted sum, no darker than the samples b and c on either side of the place allow: outer
 * samples weigh negatively, and beside a window a hundred times as bright as the wall they would
 * draw a black line on the wall, which no lens draws.
 */
// @ts-ignore: decorator
@inline
function limited(sum: v128, b: v128, c: v128): v128 {
  return f32x4.pmax(sum, f32x4.mul(f32x4.pmin(b, c), f32x4.splat(LEAST)));
}

/** How far to the side a column of the reference moves from one of the frame's rows to the next. */
// @ts-ignore: decorator
@inline
export function lean(h: usize): f64 {
  return load<f64>(h, 8) / load<f64>(h, 32);
}

/** A share of the way from one sample to the next. */
// @ts-ignore: decorator
@inline
export function mixed(a: v128, b: v128, t: f32): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.splat(t)));
}

/**
 * A share of the way between two samples each of the rows at `a` and `b`, across and then along.
 */
// @ts-ignore: decorator
@inline
export function bilinear(a: usize, b: usize, across: f32, along: f32): v128 {
  return mixed(
    mixed(v128.load(a), v128.load(a, 16), across),
    mixed(v128.load(b), v128.load(b, 16), across),
    along,
  );
}

/**
 * Where the samples about a place are clipped, their value is only a bound, for which those next to
 * it do: two each of the rows at `a` and `b`.
 */
// @ts-ignore: decorator
@inline
function bound(a: usize, b: usize, across: f32, along: f32): v128 {
  return f32x4.replace_lane(bilinear(a, b, across, along), 3, 0);
}

/** Four samples that follow one another from `p` on, under the weights at `w`. */
// @ts-ignore: decorator
@inline
export function tapped(p: usize, w: usize): v128 {
  return row4(
    p,
    v128.load32_splat(w),
    v128.load32_splat(w, 4),
    v128.load32_splat(w, 8),
    v128.load32_splat(w, 12),
  );
}

/**
 * The sum of 4 x 4 samples (16 bytes each) from `a` on, rows `stride` apart, under the weights of
 * two fractions.
 */
// @ts-ignore: decorator
@inline
function cubic(a: usize, stride: usize, across: f32, along: f32): v128 {
  return cubicBy(a, stride, taps(across), taps(along));
}
// @ts-ignore: decorator
@inline
export function cubicBy(a: usize, stride: usize, x: usize, y: usize): v128 {
  const b = a + stride;
  const c = b + stride;
  const d = c + stride;
  const w0 = v128.load32_splat(x);
  const w1 = v128.load32_splat(x, 4);
  const w2 = v128.load32_splat(x, 8);
  const w3 = v128.load32_splat(x, 12);
  return sum4(
    row4(a, w0, w1, w2, w3),
    row4(b, w0, w1, w2, w3),
    row4(c, w0, w1, w2, w3),
    row4(d, w0, w1, w2, w3),
    v128.load32_splat(y),
    v128.load32_splat(y, 4),
    v128.load32_splat(y, 8),
    v128.load32_splat(y, 12),
  );
}
// @ts-ignore: decorator
@inline
function row4(p: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  return sum4(v128.load(p), v128.load(p, 16), v128.load(p, 32), v128.load(p, 48), w0, w1, w2, w3);
}
// @ts-ignore: decorator
@inline
export function sum4(
  a: v128,
  b: v128,
  c: v128,
  d: v128,
  w0: v128,
  w1: v128,
  w2: v128,
  w3: v128,
): v128 {
  return limited(
    f32x4.add(
      f32x4.add(f32x4.mul(a, w0), f32x4.mul(b, w1)),
      f32x4.add(f32x4.mul(c, w2), f32x4.mul(d, w3)),
    ),
    b,
    c,
  );
}

/**
 * One row of a frame that moved: pixels x0 .. x0 + n of row y, sampled by bicubic interpolation
 * where `h` (reference to frame, row-major doubles) says, from a tile of eroded samples whose first
 * is at tx, ty. The tile reaches two samples beyond what the row needs, edges repeated. Writes R,
 * G, B, validity; validity is -1 outside the frame of srcW x srcH, and where it is 0 the colour is
 * bilinear.
 */
export function resampleBicubic(
  tile: usize,
  tx: i32,
  ty: i32,
  tw: i32,
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
  const h6 = load<f64>(h, 48);
  const bx = load<f64>(h, 8) * py + load<f64>(h, 16);
  const by = load<f64>(h, 32) * py + load<f64>(h, 40);
  const bz = load<f64>(h, 56) * py + load<f64>(h, 64);
  const stride = (<usize>tw) << 4;
  const flat = h6 == 0 && bz == 1;
  const upright = isUpright(h);
  const k = lean(h);
  const ax = h0 - k * h3;
  const a0 = load<f64>(h, 16) - k * load<f64>(h, 40);
  const right = <f64>srcW - 0.5;
  const bottom = <f64>srcH - 0.5;
  for (let i = 0; i < n; i++, dst += 16) {
    const px = <f64>(x0 + i) + 0.5;
    const z = flat ? 1.0 : 1.0 / (h6 * px + bz);
    const sx = (h0 * px + bx) * z - 0.5;
    const sy = (h3 * px + by) * z - 0.5;
    if (!(sx >= -0.5 && sy >= -0.5 && sx <= right && sy <= bottom)) {
      v128.store(dst, f32x4(0, 0, 0, -1));
      continue;
    }
    const fx = floor(sx);
    const fy = floor(sy);
    if (upright) {
      // the very sums that acrossTile and downRow make, for where only a few are wanted
      const first = tile + <usize>(<i32>fy - ty - 1) * stride;
      const along = ax * px;
      const v = fy - 0.5;
      v128.store(
        dst,
        between(
          across(first, tx, tw, along + (k * v + a0) - 0.5),
          across(first + stride, tx, tw, along + (k * (v + 1) + a0) - 0.5),
          across(first + 2 * stride, tx, tw, along + (k * (v + 2) + a0) - 0.5),
          across(first + 3 * stride, tx, tw, along + (k * (v + 3) + a0) - 0.5),
          <f32>(sy - fy),
        ),
      );
      continue;
    }
    const a = tile + <usize>(<i32>fy - ty - 1) * stride + ((<usize>(<i32>fx - tx - 1)) << 4);
    const b = a + stride;
    const c = b + stride;
    const d = c + stride;
    const v = f32x4.pmin(
      f32x4.pmin(v128.load(a, 16), v128.load(b, 16)),
      f32x4.pmin(v128.load(c, 16), v128.load(d, 16)),
    );
    if (f32x4.extract_lane(v, 3) == 0) {
      v128.store(dst, bound(b + 16, c + 16, <f32>(sx - fx), <f32>(sy - fy)));
      continue;
    }
    const sum = cubic(a, stride, <f32>(sx - fx), <f32>(sy - fy));
    v128.store(dst, v128.shuffle<f32>(f32x4.pmax(sum, f32x4.splat(0)), v, 0, 1, 2, 7));
  }
}

/** Six samples from `p` on under six weights. */
// @ts-ignore: decorator
@inline
function row6(p: usize, w: usize): v128 {
  return sum6(
    v128.load(p),
    v128.load(p, 16),
    v128.load(p, 32),
    v128.load(p, 48),
    v128.load(p, 64),
    v128.load(p, 80),
    w,
  );
}
// @ts-ignore: decorator
@inline
function sum6(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128, w: usize): v128 {
  return limited(
    f32x4.add(
      f32x4.add(
        f32x4.add(f32x4.mul(a, v128.load32_splat(w)), f32x4.mul(b, v128.load32_splat(w, 4))),
        f32x4.add(f32x4.mul(c, v128.load32_splat(w, 8)), f32x4.mul(d, v128.load32_splat(w, 12))),
      ),
      f32x4.add(f32x4.mul(e, v128.load32_splat(w, 16)), f32x4.mul(f, v128.load32_splat(w, 20))),
    ),
    c,
    d,
  );
}
// @ts-ignore: decorator
@inline
function lower(a: usize): v128 {
  return f32x4.pmin(v128.load(a, 16), v128.load(a, 48));
}

/**
 * As resampleBicubic, by any filter of up to six taps each way: `weights` holds eight floats, the
 * first six of them the taps', for each 1024th of a pixel from 0 to 1. The tile reaches three
 * samples beyond.
 */
export function resampleSix(
  tile: usize,
  tx: i32,
  ty: i32,
  tw: i32,
  srcW: i32,
  srcH: i32,
  y: i32,
  x0: i32,
  n: i32,
  h: usize,
  weights: usize,
  dst: usize,
): void {
  const py = <f64>y + 0.5;
  const h0 = load<f64>(h);
  const h3 = load<f64>(h, 24);
  const h6 = load<f64>(h, 48);
  const bx = load<f64>(h, 8) * py + load<f64>(h, 16);
  const by = load<f64>(h, 32) * py + load<f64>(h, 40);
  const bz = load<f64>(h, 56) * py + load<f64>(h, 64);
  const stride = (<usize>tw) << 4;
  const right = <f64>srcW - 0.5;
  const bottom = <f64>srcH - 0.5;
  for (let i = 0; i < n; i++, dst += 16) {
    const px = <f64>(x0 + i) + 0.5;
    const z = 1.0 / (h6 * px + bz);
    const sx = (h0 * px + bx) * z - 0.5;
    const sy = (h3 * px + by) * z - 0.5;
    if (!(sx >= -0.5 && sy >= -0.5 && sx <= right && sy <= bottom)) {
      v128.store(dst, f32x4(0, 0, 0, -1));
      continue;
    }
    const fx = floor(sx);
    const fy = floor(sy);
    const a = tile + <usize>(<i32>fy - ty - 2) * stride + ((<usize>(<i32>fx - tx - 2)) << 4);
    const b = a + stride;
    const c = b + stride;
    const d = c + stride;
    const e = d + stride;
    const f = e + stride;
    // what is eroded for four taps stands for six at two places
    const v = f32x4.pmin(
      f32x4.pmin(f32x4.pmin(lower(a), lower(b)), f32x4.pmin(lower(c), lower(d))),
      f32x4.pmin(lower(e), lower(f)),
    );
    if (f32x4.extract_lane(v, 3) == 0) {
      v128.store(dst, bound(c + 32, d + 32, <f32>(sx - fx), <f32>(sy - fy)));
      continue;
    }
    const wx =
      weights +
      ((<usize>(reinterpret<u32>(<f32>(sx - fx) * <f32>FRACTIONS + 12582912.0) & 2047)) << 5);
    const wy =
      weights +
      ((<usize>(reinterpret<u32>(<f32>(sy - fy) * <f32>FRACTIONS + 12582912.0) & 2047)) << 5);
    const sum = sum6(
      row6(a, wx),
      row6(b, wx),
      row6(c, wx),
      row6(d, wx),
      row6(e, wx),
      row6(f, wx),
      wy,
    );
    v128.store(dst, v128.shuffle<f32>(f32x4.pmax(sum, f32x4.splat(0)), v, 0, 1, 2, 7));
  }
}
