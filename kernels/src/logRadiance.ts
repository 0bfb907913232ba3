// Log radiance in EV with confidences: the common tongue of frames of one scene at different
// exposures.
import { exp2x4 } from "./math";

/**
 * Linear samples (R, G, B, validity) to log radiance and confidence. `logs` and `confidences` are
 * tables over the square root of light with `steps` + 2 entries; `ev` is subtracted.
 */
export function logRow(
  src: usize,
  n: i32,
  logs: usize,
  confidences: usize,
  steps: i32,
  ev: f32,
  log: usize,
  confidence: usize,
): void {
  const k = <f32>steps;
  for (let i = 0; i < n; i++, src += 16, log += 4, confidence += 4) {
    const y: f32 = 0.25 * load<f32>(src) + 0.5 * load<f32>(src, 4) + 0.25 * load<f32>(src, 8);
    const t = (<usize>min(steps + 1, <i32>(sqrt<f32>(y > 0 ? y : 0) * k + 0.5))) << 2;
    store<f32>(log, load<f32>(logs + t) - ev);
    store<f32>(confidence, load<f32>(src, 12) * load<f32>(confidences + t));
  }
}

/**
 * Adds an image to a merge of log radiance, sampled bilinearly where `m` says; `ghosts` (0, or
 * bytes on a grid of `step` px and gw x gh) holds back what moved.
 */
export function foldLog(
  c: usize,
  cv: usize,
  l: usize,
  lv: usize,
  w: i32,
  h: i32,
  m: usize,
  offset: f32,
  ghosts: usize,
  gw: i32,
  gh: i32,
  step: i32,
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
  const flat = m6 == 0 && m7 == 0 && m8 == 1;
  for (let y = 0; y < h; y++) {
    const py = <f64>y + 0.5;
    const gy = ghosts + <usize>(min(gh - 1, y / step) * gw);
    for (let x = 0, gx = 0, until = step; x < w; x++) {
      if (x == until) {
        until += step;
        gx = min(gw - 1, gx + 1);
      }
      const px = <f64>x + 0.5;
      const z = flat ? 1.0 : 1.0 / (m6 * px + m7 * py + m8);
      const sx = (m0 * px + m1 * py + m2) * z - 0.5;
      const sy = (m3 * px + m4 * py + m5) * z - 0.5;
      const fx = floor(sx);
      const fy = floor(sy);
      const ix = <i32>fx;
      const iy = <i32>fy;
      if (ix < 0 || iy < 0 || ix > w - 1 || iy > h - 1) continue;
      const right: usize = ix < w - 1 ? 4 : 0;
      const down: usize = iy < h - 1 ? row : 0;
      const q = (<usize>(iy * w + ix)) << 2;
      const q2 = q + down;
      const v0 = load<f32>(lv + q);
      const v1 = load<f32>(lv + q + right);
      const v2 = load<f32>(lv + q2);
      const v3 = load<f32>(lv + q2 + right);
      const va = v0 < v1 ? v0 : v1;
      const vb = v2 < v3 ? v2 : v3;
      let confidence = va < vb ? va : vb;
      if (ghosts) confidence *= <f32>load<u8>(gy + <usize>gx) * <f32>(1.0 / 255.0);
      if (!(confidence > 0)) continue;
      const a = <f32>(sx - fx);
      const b = <f32>(sy - fy);
      const top = load<f32>(l + q) + (load<f32>(l + q + right) - load<f32>(l + q)) * a;
      const bot = load<f32>(l + q2) + (load<f32>(l + q2 + right) - load<f32>(l + q2)) * a;
      const p = (<usize>(y * w + x)) << 2;
      const was = load<f32>(cv + p);
      const sum = was + confidence;
      store<f32>(
        c + p,
        (load<f32>(c + p) * was + (top + (bot - top) * b + offset) * confidence) / sum,
      );
      store<f32>(cv + p, sum > 1 ? 1 : sum);
    }
  }
}

/**
 * EV by which a sample beside clipped ones may be off at most: files ring and smear colour there.
 */
const BESIDE_CLIPPED: f32 = 0.6;
/** Side in px of the blocks in which lossy files err alike. */
const BLOCK = 8;

/** The brightest sample of each block, block by block in rows. */
export function brightest(plane: usize, w: i32, h: i32, out: usize): void {
  for (let y = 0; y < h; y += BLOCK)
    for (let x = 0; x < w; x += BLOCK, out += 4) {
      let most = -f32.MAX_VALUE;
      const right = min(w, x + BLOCK);
      const below = min(h, y + BLOCK);
      for (let v = y; v < below; v++)
        for (let u = x; u < right; u++)
          most = max(most, load<f32>(plane + ((<usize>(v * w + u)) << 2)));
      store<f32>(out, most);
    }
}

/**
 * By how much the brightest of its block is brighter than a sample, in code values: a power of 1 /
 * 2.2 of light.
 */
// @ts-ignore: decorator
@inline
function brighter(blocks: usize, across: i32, x: i32, y: i32, ev: f32): f32 {
  return (load<f32>(blocks + ((<usize>((y >> 3) * across + (x >> 3))) << 2)) - ev) * <f32>(1 / 2.2);
}

/**
 * EV by which samples of two lossy files may differ: each is off by `ringing` of the way in code
 * values to the brightest of its block.
 */
// @ts-ignore: decorator
@inline
function ringingOf(a: f32, b: f32, ringing: f32): f32 {
  if (a <= 0 && b <= 0) return 0;
  // the slope of log2 over code values, in units of the sample's own
  const ways = exp2x4(f32x4.max(f32x4.replace_lane(f32x4.splat(a), 1, b), f32x4.splat(0)));
  const k: f32 = 3.174 * ringing;
  return (
    min(BESIDE_CLIPPED, k * (f32x4.extract_lane(ways, 0) - 1)) +
    min(BESIDE_CLIPPED, k * (f32x4.extract_lane(ways, 1) - 1))
  );
}

/** How many of four samples lie above a level and have no weight. */
// @ts-ignore: decorator
@inline
function blindOf(values: v128, confidences: v128, level: v128): i32 {
  return popcnt(
    i32x4.bitmask(v128.and(f32x4.gt(values, level), f32x4.eq(confidences, f32x4.splat(0)))),
  );
}

// @ts-ignore: decorator
@inline
function lowest(v: v128): f32 {
  return min(
    min(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    min(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}
// @ts-ignore: decorator
@inline
function highest(v: v128): f32 {
  return max(
    max(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/**
 * How far an image disagrees with the merge, in units of what noise and misregistration by `slack`
 * pixels allow, on a grid of half the size (w / 2 x h / 2, rounded down). `trusted` is the variance
 * in EV^2 at which a sample keeps half its confidence; `ringing` the share of the way in code
 * values to the brightest of its block by which a sample of a lossy file errs; -1 where the two
 * cannot be compared; `clipped` the level in EV of the frame's own saturation above which a sample
 * without a confidence is clipped.
 */
export function disagreement(
  c: usize,
  cv: usize,
  l: usize,
  lv: usize,
  w: i32,
  h: i32,
  m: usize,
  offset: f32,
  ev: f32,
  trusted: f32,
  clipped: f32,
  slack: f32,
  reduced: bool,
  ringing: f32,
  blocksC: usize,
  blocksL: usize,
  score: usize,
): void {
  const across = (w + BLOCK - 1) / BLOCK;
  const gw = w >> 1;
  const gh = h >> 1;
  const row = (<usize>w) << 2;
  const m0 = load<f64>(m);
  const m1 = load<f64>(m, 8);
  const m2 = load<f64>(m, 16);
  const m3 = load<f64>(m, 24);
  const m4 = load<f64>(m, 32);
  const m5 = load<f64>(m, 40);
  const m6 = load<f64>(m, 48);
  const m7 = load<f64>(m, 56);
  const m8 = load<f64>(m, 64);
  const clippedx4 = f32x4.splat(clipped);
  const evx4 = f32x4.splat(ev);
  for (let i: usize = 0; i < (<usize>(gw * gh)) << 2; i += 4) store<f32>(score + i, -1);
  for (let gy = 1; gy < gh - 1; gy++)
    for (let gx = 1; gx < gw - 1; gx++) {
      const x = gx << 1;
      const y = gy << 1;
      const px = <f64>(x + 1);
      const py = <f64>(y + 1);
      const z = 1.0 / (m6 * px + m7 * py + m8);
      const ix = <i32>floor((m0 * px + m1 * py + m2) * z - 0.5);
      const iy = <i32>floor((m3 * px + m4 * py + m5) * z - 0.5);
      if (ix < 1 || iy < 1 || ix >= w - 2 || iy >= h - 2) continue;
      const i = (<usize>(y * w + x)) << 2;
      const q = (<usize>(iy * w + ix)) << 2;
      const at = score + ((<usize>(gy * gw + gx)) << 2);
      let low = f32x4.splat(f32.MAX_VALUE);
      let high = f32x4.splat(-f32.MAX_VALUE);
      let blindMerge = 0;
      let blindFrame = 0;
      for (let b = -1; b <= 2; b++) {
        const p = <usize>(b * <i32>row) - 4;
        const v = v128.load(c + i + p);
        low = f32x4.pmin(low, v);
        high = f32x4.pmax(high, v);
        blindMerge += blindOf(v, v128.load(cv + i + p), clippedx4);
        blindFrame += blindOf(
          f32x4.add(v128.load(l + q + p), evx4),
          v128.load(lv + q + p),
          clippedx4,
        );
      }
      // light beyond the range, of unknown strength, spills over its edge as far as the two lie
      // apart: by hand nothing is asked there
      if (
        slack > 0.2 &&
        ((blindMerge > 0 && blindMerge < 16) || (blindFrame > 0 && blindFrame < 16))
      )
        continue;
      // of the four pixels those that both can tell: among clipped ones a few may still show what
      // is behind
      let sum: f32 = 0;
      let told: f32 = 0;
      let vc: f32 = 1;
      let vl: f32 = 1;
      let all: f32 = 0;
      for (let b: usize = 0; b <= row; b += row)
        for (let a: usize = 0; a < 8; a += 4) {
          const difference = load<f32>(l + q + b + a) - load<f32>(c + i + b + a);
          const mine = load<f32>(lv + q + b + a);
          const theirs = load<f32>(cv + i + b + a);
          all += difference;
          if (mine < 0.05 || theirs < 0.05) continue;
          sum += difference;
          told += 1;
          if (mine < vl) vl = mine;
          if (theirs < vc) vc = theirs;
        }
      const d: f32 = (told > 0 ? sum / told : all * 0.25) + offset;
      // a sample of a reduced file beside light beyond its range is partly that light, packed: it
      // is at least so bright
      if (
        reduced &&
        ((d < 0 && blindFrame > 0 && blindFrame < 16) ||
          (d > 0 && blindMerge > 0 && blindMerge < 16))
      )
        continue;
      if (told == 0) {
        if (load<f32>(l + q) + ev > clipped) continue;
        vc = lowest4(cv + i, row);
        vl = lowest4(lv + q, row);
        // one of the two is beyond its range and gives only a bound: where all so far are clipped
        // the scene is at least that bright, where this frame is black at most that; noise in the
        // black is worth a stop
        const deficit: f32 = -d - (vl < 0.05 ? 1.2 : 0.2);
        if ((vc >= 0.05 || load<f32>(c + i) > clipped) && deficit > 0.2)
          store<f32>(at, min<f32>(8, deficit * 10));
        // and what so far was near black, within its noise, cannot be far brighter
        else if (vc < 0.05 && vl >= 0.05 && load<f32>(c + i) <= clipped) {
          const excess: f32 = d - 1.2 - 3 * sqrt<f32>(trusted / max<f32>(vc, 1e-4));
          if (excess > 0.2) store<f32>(at, min<f32>(8, excess * 10));
        }
        continue;
      }
      // confidences are trusted / (trusted + variance): turn them back into variances
      const spread = trusted * (1 / vc + 1 / vl) * 0.5;
      const rings: f32 =
        ringing > 0
          ? ringingOf(
              brighter(blocksC, across, x, y, meanOf(c + i, row)),
              brighter(blocksL, across, ix, iy, meanOf(l + q, row)),
              ringing,
            )
          : 0;
      store<f32>(
        at,
        abs<f32>(d) /
          (sqrt<f32>(spread + 0.0036) +
            slack * (highest(high) - lowest(low)) +
            max<f32>(told < 4 && slack <= 0.2 ? BESIDE_CLIPPED : 0, rings)),
      );
    }
}

// @ts-ignore: decorator
@inline
function meanOf(p: usize, row: usize): f32 {
  return (load<f32>(p) + load<f32>(p + 4) + load<f32>(p + row) + load<f32>(p + row + 4)) * 0.25;
}

// @ts-ignore: decorator
@inline
function lowest4(p: usize, row: usize): f32 {
  return min(min(load<f32>(p), load<f32>(p + 4)), min(load<f32>(p + row), load<f32>(p + row + 4)));
}

/** Light of n values of log luminance in EV, times a gain; planes reach to the next four. */
export function lightOf(log: usize, n: i32, gain: f32, dst: usize): void {
  for (const end = dst + ((<usize>n) << 2); dst < end; dst += 16, log += 16)
    v128.store(dst, f32x4.mul(exp2x4(v128.load(log)), f32x4.splat(gain)));
}
