// Noise reduction over overlapping blocks of 8 x 8: what of a block's cosine transform noise alone
// would make is taken out, first by a threshold, then once more weighed by what the first pass
// found (Yu and Sapiro, "DCT image denoising", IPOL 2011; Wiener's filter with a pilot as in Dabov et
// al., "Image denoising by sparse 3-D transform-domain collaborative filtering", TIP 2007).

import { luma } from "./tone";
import { finite } from "./render";

const SIDE: i32 = 8;
const BLOCK_BYTES: usize = 256;

/** Light in which noise has the same size everywhere: 2 sqrt(x / gain + read^2), and opposite colours. */
export function stabilise(
  src: usize,
  plane: usize,
  n: i32,
  perUnit: f32,
  read2: f32,
  dst: usize,
  dstPlane: usize,
): void {
  const a = f32x4.splat(perUnit);
  const b = f32x4.splat(read2);
  // root of variance over its rise: a step of one is one standard deviation
  const scale = f32x4.splat(2 / perUnit);
  const least = f32x4.splat(read2 * 0.1 + 1e-20);
  for (let i = 0; i < n; i += 4) {
    const p = src + ((<usize>i) << 2);
    const q = dst + ((<usize>i) << 2);
    const r = f32x4.mul(
      scale,
      f32x4.sqrt(f32x4.pmax(least, f32x4.add(b, f32x4.mul(a, finite(v128.load(p)))))),
    );
    const g = f32x4.mul(
      scale,
      f32x4.sqrt(f32x4.pmax(least, f32x4.add(b, f32x4.mul(a, finite(v128.load(p + plane)))))),
    );
    const c = f32x4.mul(
      scale,
      f32x4.sqrt(f32x4.pmax(least, f32x4.add(b, f32x4.mul(a, finite(v128.load(p + 2 * plane)))))),
    );
    v128.store(q, f32x4.mul(f32x4.splat(0.57735027), f32x4.add(f32x4.add(r, g), c)));
    v128.store(q + dstPlane, f32x4.mul(f32x4.splat(0.70710678), f32x4.sub(r, c)));
    v128.store(
      q + 2 * dstPlane,
      f32x4.mul(f32x4.splat(0.40824829), f32x4.sub(f32x4.add(r, c), f32x4.mul(f32x4.splat(2), g))),
    );
  }
}

/**
 * Back to light. The root of a mean is more than the mean of roots: the variance that was taken out,
 * `sigma` in standard deviations a pixel, is given back to the mean.
 */
export function unstabilise(
  src: usize,
  srcPlane: usize,
  n: i32,
  perUnit: f32,
  read2: f32,
  sigma: usize,
  dst: usize,
  plane: usize,
): void {
  const scale = f32x4.splat(perUnit / 2);
  const inv = f32x4.splat(1 / perUnit);
  const b = f32x4.splat(read2);
  const quarter = f32x4.splat((perUnit * perUnit) / 4);
  for (let i = 0; i < n; i += 4) {
    const p = src + ((<usize>i) << 2);
    const q = dst + ((<usize>i) << 2);
    const own = v128.load(sigma + ((<usize>i) << 2));
    const bias = f32x4.mul(quarter, f32x4.mul(own, own));
    const y = f32x4.mul(f32x4.splat(0.57735027), v128.load(p));
    const c1 = f32x4.mul(f32x4.splat(0.70710678), v128.load(p + srcPlane));
    const c2 = f32x4.mul(f32x4.splat(0.40824829), v128.load(p + 2 * srcPlane));
    for (let c = 0; c < 3; c++) {
      let z: v128;
      if (c == 0) z = f32x4.add(f32x4.add(y, c1), c2);
      else if (c == 1) z = f32x4.sub(y, f32x4.add(c2, c2));
      else z = f32x4.add(f32x4.sub(y, c1), c2);
      const root = f32x4.mul(scale, z);
      const light = f32x4.mul(inv, f32x4.sub(f32x4.add(f32x4.mul(root, root), bias), b));
      v128.store(q + <usize>c * plane, light);
    }
  }
}

/**
 * Noise that is more times larger than the model's belongs to no frame, were it 8 EV darker: a pixel
 * that every frame has clipped, or none is sure of.
 */
const LARGEST_RATIO: f32 = 16;

/**
 * How many times larger than the model's the noise of each pixel is, from the weights of a merge:
 * sqrt(1 / weight) over the root of the model's variance, times `scale`; as the model has it where
 * no frame was sure of a pixel.
 */
export function noiseRow(
  src: usize,
  plane: usize,
  weights: usize,
  n: i32,
  perUnit: f32,
  read2: f32,
  scale: f32,
  dst: usize,
): void {
  const k = f32x4.splat(scale);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const p = src + o;
    const light = f32x4.pmax(
      f32x4.splat(0),
      luma(finite(v128.load(p)), finite(v128.load(p + plane)), finite(v128.load(p + 2 * plane))),
    );
    const model = f32x4.add(f32x4.splat(read2), f32x4.mul(f32x4.splat(perUnit), light));
    const w = f32x4.pmax(f32x4.splat(1e-20), v128.load(weights + o));
    const own = f32x4.sqrt(f32x4.div(f32x4.splat(1), f32x4.mul(w, model)));
    const isKnown = f32x4.le(own, f32x4.splat(LARGEST_RATIO));
    v128.store(dst + o, f32x4.mul(k, v128.bitselect(own, f32x4.splat(1), isKnown)));
  }
}

// @ts-ignore: decorator
@inline
function transposeHalf(block: usize, from: usize, to: usize, scratch: usize): void {
  const a = v128.load(block + from);
  const b = v128.load(block + from, 32);
  const c = v128.load(block + from, 64);
  const d = v128.load(block + from, 96);
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const ef = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const gh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(scratch + to, v128.shuffle<f64>(ab, cd, 0, 2));
  v128.store(scratch + to, v128.shuffle<f64>(ab, cd, 1, 3), 32);
  v128.store(scratch + to, v128.shuffle<f64>(ef, gh, 0, 2), 64);
  v128.store(scratch + to, v128.shuffle<f64>(ef, gh, 1, 3), 96);
}

/** A block of 8 rows of 8 floats, mirrored at its diagonal into another. */
// @ts-ignore: decorator
@inline
function transpose(block: usize, to: usize): void {
  transposeHalf(block, 0, 0, to);
  transposeHalf(block, 16, 128, to);
  transposeHalf(block, 128, 16, to);
  transposeHalf(block, 144, 144, to);
}

const C1: f32 = 0.49039264; // cos(pi / 16) / 2, and so on
const C2: f32 = 0.46193977;
const C3: f32 = 0.41573481;
const C4: f32 = 0.35355339;
const C5: f32 = 0.27778512;
const C6: f32 = 0.19134172;
const C7: f32 = 0.09754516;

// @ts-ignore: decorator
@inline
function sumOf(a: v128, ka: f32, b: v128, kb: f32): v128 {
  return f32x4.add(f32x4.mul(a, f32x4.splat(ka)), f32x4.mul(b, f32x4.splat(kb)));
}

/** The orthonormal cosine transform down four columns. */
// @ts-ignore: decorator
@inline
function cosinesDown(at: usize): void {
  const x0 = v128.load(at);
  const x1 = v128.load(at, 32);
  const x2 = v128.load(at, 64);
  const x3 = v128.load(at, 96);
  const x4 = v128.load(at, 128);
  const x5 = v128.load(at, 160);
  const x6 = v128.load(at, 192);
  const x7 = v128.load(at, 224);
  const s0 = f32x4.add(x0, x7);
  const s1 = f32x4.add(x1, x6);
  const s2 = f32x4.add(x2, x5);
  const s3 = f32x4.add(x3, x4);
  const d0 = f32x4.sub(x0, x7);
  const d1 = f32x4.sub(x1, x6);
  const d2 = f32x4.sub(x2, x5);
  const d3 = f32x4.sub(x3, x4);
  const e0 = f32x4.add(s0, s3);
  const e1 = f32x4.add(s1, s2);
  const f0 = f32x4.sub(s0, s3);
  const f1 = f32x4.sub(s1, s2);
  v128.store(at, f32x4.mul(f32x4.add(e0, e1), f32x4.splat(C4)));
  v128.store(at, f32x4.mul(f32x4.sub(e0, e1), f32x4.splat(C4)), 128);
  v128.store(at, sumOf(f0, C2, f1, C6), 64);
  v128.store(at, sumOf(f0, C6, f1, -C2), 192);
  v128.store(at, f32x4.add(sumOf(d0, C1, d1, C3), sumOf(d2, C5, d3, C7)), 32);
  v128.store(at, f32x4.add(sumOf(d0, C3, d1, -C7), sumOf(d2, -C1, d3, -C5)), 96);
  v128.store(at, f32x4.add(sumOf(d0, C5, d1, -C1), sumOf(d2, C7, d3, C3)), 160);
  v128.store(at, f32x4.add(sumOf(d0, C7, d1, -C5), sumOf(d2, C3, d3, -C1)), 224);
}

/** Its inverse. */
// @ts-ignore: decorator
@inline
function valuesDown(at: usize): void {
  const y0 = v128.load(at);
  const y1 = v128.load(at, 32);
  const y2 = v128.load(at, 64);
  const y3 = v128.load(at, 96);
  const y4 = v128.load(at, 128);
  const y5 = v128.load(at, 160);
  const y6 = v128.load(at, 192);
  const y7 = v128.load(at, 224);
  const e0 = f32x4.mul(f32x4.add(y0, y4), f32x4.splat(C4));
  const e1 = f32x4.mul(f32x4.sub(y0, y4), f32x4.splat(C4));
  const f0 = sumOf(y2, C2, y6, C6);
  const f1 = sumOf(y2, C6, y6, -C2);
  const s0 = f32x4.add(e0, f0);
  const s3 = f32x4.sub(e0, f0);
  const s1 = f32x4.add(e1, f1);
  const s2 = f32x4.sub(e1, f1);
  const d0 = f32x4.add(sumOf(y1, C1, y3, C3), sumOf(y5, C5, y7, C7));
  const d1 = f32x4.add(sumOf(y1, C3, y3, -C7), sumOf(y5, -C1, y7, -C5));
  const d2 = f32x4.add(sumOf(y1, C5, y3, -C1), sumOf(y5, C7, y7, C3));
  const d3 = f32x4.add(sumOf(y1, C7, y3, -C5), sumOf(y5, C3, y7, -C1));
  v128.store(at, f32x4.add(s0, d0));
  v128.store(at, f32x4.add(s1, d1), 32);
  v128.store(at, f32x4.add(s2, d2), 64);
  v128.store(at, f32x4.add(s3, d3), 96);
  v128.store(at, f32x4.sub(s3, d3), 128);
  v128.store(at, f32x4.sub(s2, d2), 160);
  v128.store(at, f32x4.sub(s1, d1), 192);
  v128.store(at, f32x4.sub(s0, d0), 224);
}

/** The transform of the block at px (x, y) of a plane, mirrored at its diagonal. */
// @ts-ignore: decorator
@inline
function transformBlock(src: usize, stride: usize, block: usize, spare: usize): void {
  for (let j = 0; j < SIDE; j++) {
    v128.store(block + ((<usize>j) << 5), v128.load(src + <usize>j * stride));
    v128.store(block + ((<usize>j) << 5), v128.load(src + <usize>j * stride, 16), 16);
  }
  cosinesDown(block);
  cosinesDown(block + 16);
  transpose(block, spare);
  cosinesDown(spare);
  cosinesDown(spare + 16);
}

/** Adds the block whose mirrored transform is at `spare` to sums, by a weight. */
// @ts-ignore: decorator
@inline
function addBlock(spare: usize, block: usize, weight: f32, dst: usize, stride: usize): void {
  valuesDown(spare);
  valuesDown(spare + 16);
  transpose(spare, block);
  valuesDown(block);
  valuesDown(block + 16);
  const k = f32x4.splat(weight);
  for (let j = 0; j < SIDE; j++) {
    const p = dst + <usize>j * stride;
    const q = block + ((<usize>j) << 5);
    v128.store(p, f32x4.add(v128.load(p), f32x4.mul(k, v128.load(q))));
    v128.store(p, f32x4.add(v128.load(p, 16), f32x4.mul(k, v128.load(q, 16))), 16);
  }
}

// @ts-ignore: decorator
@inline
function addWeight(weight: f32, dst: usize, stride: usize): void {
  const k = f32x4.splat(weight);
  for (let j = 0; j < SIDE; j++) {
    const p = dst + <usize>j * stride;
    v128.store(p, f32x4.add(v128.load(p), k));
    v128.store(p, f32x4.add(v128.load(p, 16), k), 16);
  }
}

/** Lanes of four coefficients that are larger than a bound. */
// @ts-ignore: decorator
@inline
function keepLarge(at: usize, bound: v128): i32 {
  const x = v128.load(at);
  const large = f32x4.ge(f32x4.abs(x), bound);
  v128.store(at, v128.and(x, large));
  return popcnt<i32>(i32x4.bitmask(large));
}

/**
 * One pass over the blocks of a tile of w x h, whose corners are `step` px apart; the last row and
 * column of blocks reach its ends. `sigma` is the noise of each pixel. Without a `pilot` (0),
 * coefficients under `bound` times the noise are taken out, in chroma under `chromaBound` times;
 * with one, they are weighed by its power over that and the noise's. The three planes' sums go to
 * `sums`, the weights to the plane after them; `room` holds 4 blocks.
 */
export function denoiseBlocks(
  src: usize,
  pilot: usize,
  plane: usize,
  sigma: usize,
  w: i32,
  h: i32,
  step: i32,
  bound: f32,
  chromaBound: f32,
  sums: usize,
  room: usize,
): void {
  const stride = (<usize>w) << 2;
  const block = room;
  const spare = room + BLOCK_BYTES;
  const guide = room + 2 * BLOCK_BYTES;
  let y = 0;
  while (true) {
    let x = 0;
    while (true) {
      const o = <usize>y * stride + ((<usize>x) << 2);
      // noise in the middle of the block
      const s =
        (load<f32>(sigma + o + 2 * stride + 8) +
          load<f32>(sigma + o + 2 * stride + 20) +
          load<f32>(sigma + o + 5 * stride + 8) +
          load<f32>(sigma + o + 5 * stride + 20)) *
        0.25;
      let weight: f32 = 0;
      for (let c = 0; c < 3; c++) {
        const at = <usize>c * plane + o;
        transformBlock(src + at, stride, block, spare);
        const dc = load<f32>(spare);
        let own: f32;
        if (pilot) {
          transformBlock(pilot + at, stride, block, guide);
          const power = f32x4.splat(s * s);
          let total = f32x4.splat(0);
          for (let j: usize = 0; j < BLOCK_BYTES; j += 16) {
            const p = v128.load(guide + j);
            const p2 = f32x4.mul(p, p);
            const k = f32x4.div(p2, f32x4.add(p2, power));
            total = f32x4.add(total, f32x4.mul(k, k));
            v128.store(spare + j, f32x4.mul(k, v128.load(spare + j)));
          }
          const sum =
            f32x4.extract_lane(total, 0) +
            f32x4.extract_lane(total, 1) +
            f32x4.extract_lane(total, 2) +
            f32x4.extract_lane(total, 3);
          own = 1 / (1 + sum);
        } else {
          const b = f32x4.splat(s * (c == 0 ? bound : chromaBound));
          let kept = 0;
          for (let j: usize = 0; j < BLOCK_BYTES; j += 16) kept += keepLarge(spare + j, b);
          own = 1 / (<f32>1 + <f32>kept);
        }
        store<f32>(spare, dc);
        // luminance, which has most of the structure, says what the block is worth
        if (c == 0) weight = own;
        addBlock(spare, block, weight, sums + at, stride);
      }
      addWeight(weight, sums + 3 * plane + o, stride);
      if (x >= w - SIDE) break;
      x = min(x + step, w - SIDE);
    }
    if (y >= h - SIDE) break;
    y = min(y + step, h - SIDE);
  }
}

/** Three planes over the weights in the plane after them, in place; n values each. */
export function divideBlocks(sums: usize, plane: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const p = sums + ((<usize>i) << 2);
    const inv = f32x4.div(f32x4.splat(1), f32x4.pmax(f32x4.splat(1e-20), v128.load(p + 3 * plane)));
    v128.store(p, f32x4.mul(v128.load(p), inv));
    v128.store(p + plane, f32x4.mul(v128.load(p + plane), inv));
    v128.store(p + 2 * plane, f32x4.mul(v128.load(p + 2 * plane), inv));
  }
}

/**
 * The power of a block's finest texture and of all the rest, for measuring noise: mean square of the
 * coefficients whose both frequencies are 4 and more, to `dst`, and of the others but the mean, to
 * `dst + 4`.
 */
export function blockPowers(src: usize, stride: i32, room: usize, dst: usize): void {
  const spare = room + BLOCK_BYTES;
  transformBlock(src, <usize>stride, room, spare);
  let fine: f32 = 0;
  let rest: f32 = 0;
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++) {
      const x = load<f32>(spare + ((<usize>(j * SIDE + i)) << 2));
      if (i >= 4 && j >= 4) fine += x * x;
      else if (i + j > 0) rest += x * x;
    }
  store<f32>(dst, fine / 16);
  store<f32>(dst, rest / 47, 4);
}
