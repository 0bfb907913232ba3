import { longestMove, project, type Matrix3 } from "../math/matrix3";
import type { Measured } from "./measureBending";
import { clamp } from "../math/clamp";

/**
 * Levels of light, half a stop each, in which frames may differ by what a profile tells wrongly.
 */
const LEVELS = 32;
/**
 * Deviation of a sample in log light that counts half, at least; px of misregistration that a slope
 * forgives.
 */
const NOISE = 0.01;
const OUTLIER_EV = 0.3;
/**
 * So many samples err as one; the deviation of misregistration and profiles at best, and one that
 * tells nothing any more; the largest falloff that is believed; fewest samples.
 */
const CORRELATED_SAMPLES = 20;
const MIN_DEVIATION = 0.012;
const MAX_DEVIATION = 0.04;
const MAX_FALLOFF = 0.85;
const MIN_SAMPLES = 2000;
/** The frames that moved farthest tell nearly all. */
const MAX_FRAMES = 4;
/** Light above which a frame may be clipped, below which noise and rounding weigh. */
const MAX_LIGHT = 0.9;
const MIN_LIGHT = 0.003;

/**
 * A sample that two frames share: its level, its squared distance from the middle in either, slopes
 * of log light, log of the ratio of light, variance.
 */
interface Shared {
  level: number;
  r2: number;
  s2: number;
  gx: number;
  gy: number;
  ratio: number;
  variance: number;
}
export interface FalloffFrame {
  /** linear light, row by row; 0 where it is clipped or black */
  light: Float32Array;
  fromReference: Matrix3;
}

/**
 * How much light the corners lack, from frames between which the camera moved a little: the same
 * thing is brighter in the frame that has it nearer the middle. A dark corner of a room moves with
 * the room and tells nothing.
 *
 * @param reference  light as in `FalloffFrame`
 * @returns v of light = 1 - v r^2, r = 1 at half the diagonal; undefined where the camera moved too
 *   little to tell
 * @see Goldman, "Vignette and exposure calibration and compensation", TPAMI 2010 (what frames
 *   share, solved for the falloff)
 */
export function measureFalloff(
  w: number,
  h: number,
  reference: Float32Array,
  others: readonly FalloffFrame[],
): Measured | undefined {
  const far = [...others]
    .sort((a, b) => longestMove(b.fromReference, w, h) - longestMove(a.fromReference, w, h))
    .slice(0, MAX_FRAMES);
  const pairs = far.map((o) => shared(w, h, reference, o)).filter((p) => p.length >= MIN_SAMPLES);
  if (!pairs.length) return undefined;
  let v = 0;
  let hold = 0;
  for (let i = 0; i < 12; i++) {
    let along = 0;
    let square = 0;
    let errors = 0;
    let count = 0;
    for (const pair of pairs) {
      const left = (p: Shared): number => p.ratio - Math.log((1 - v * p.r2) / (1 - v * p.s2));
      const slope = (p: Shared): number => -p.r2 / (1 - v * p.r2) + p.s2 / (1 - v * p.s2);
      // what a level of light differs by as a whole is the profile's or the exposure's; twice, the
      // second time without what stands out
      let middles = meansOf(pair, left, () => 1);
      middles = meansOf(pair, left, (p) => trust(left(p) - middles[p.level]!, p.variance));
      const slopes = meansOf(pair, slope, (p) => trust(left(p) - middles[p.level]!, p.variance));
      // what a shift that is still left between the two would explain is taken from both sides
      let xx = 1e-9;
      let xy = 0;
      let yy = 1e-9;
      let xe = 0;
      let ye = 0;
      let xs = 0;
      let ys = 0;
      const rows = pair.map((p) => {
        const error = left(p) - middles[p.level]!;
        const s = slope(p) - slopes[p.level]!;
        const weight = trust(error, p.variance);
        const { gx, gy } = p;
        xx += weight * gx * gx;
        xy += weight * gx * gy;
        yy += weight * gy * gy;
        xe += weight * gx * error;
        ye += weight * gy * error;
        xs += weight * gx * s;
        ys += weight * gy * s;
        return { p, error, s, weight };
      });
      const det = xx * yy - xy * xy;
      const [ex, ey, sx, sy] = [
        (xe * yy - ye * xy) / det,
        (ye * xx - xe * xy) / det,
        (xs * yy - ys * xy) / det,
        (ys * xx - xs * xy) / det,
      ] as const;
      for (const { p, error, s, weight } of rows) {
        const e = error - ex * p.gx - ey * p.gy;
        const d = s - sx * p.gx - sy * p.gy;
        along += weight * d * e;
        square += weight * d * d;
        errors += weight * e * e;
        count++;
      }
    }
    const step = square > 0 ? along / square : NaN;
    if (!Number.isFinite(step)) return undefined;
    hold = Math.sqrt(
      MIN_DEVIATION ** 2 + (CORRELATED_SAMPLES * Math.max(1, errors / count)) / square,
    );
    v = clamp(v + step, -0.3, 0.95);
    if (Math.abs(step) < 1e-4) break;
  }
  return hold > MAX_DEVIATION || v > MAX_FALLOFF
    ? undefined
    : { value: v < 2 * hold ? 0 : v, deviation: hold, of: pairs.length };
}

/**
 * Means of a frame's green over squares of `by` px, as `measureFalloff` takes it; 0 where a sample
 * of the square is clipped or black.
 *
 * @param green  linear
 */
export function coarseLight(
  width: number,
  height: number,
  by: number,
  green: (i: number) => number,
): Float32Array {
  const w = Math.floor(width / by);
  const h = Math.floor(height / by);
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      let least = 1;
      let most = 0;
      for (let v = y * by; v < (y + 1) * by; v++)
        for (let u = x * by; u < (x + 1) * by; u++) {
          const g = green(v * width + u);
          sum += g;
          if (g < least) least = g;
          if (g > most) most = g;
        }
      out[y * w + x] = least < MIN_LIGHT || most > MAX_LIGHT ? 0 : sum / (by * by);
    }
  return out;
}

/** Geman-McClure over the variance. */
const trust = (error: number, variance: number): number =>
  1 / (variance * (1 + (error * error) / (9 * variance)) ** 2);

function meansOf(
  pair: readonly Shared[],
  value: (p: Shared) => number,
  weight: (p: Shared) => number,
): Float64Array {
  const sums = new Float64Array(LEVELS);
  const weights = new Float64Array(LEVELS);
  for (const p of pair) {
    const k = weight(p);
    sums[p.level]! += k * value(p);
    weights[p.level]! += k;
  }
  return sums.map((s, i) => (weights[i]! > 0 ? s / weights[i]! : 0));
}

function shared(
  w: number,
  h: number,
  reference: Float32Array,
  { light, fromReference }: FalloffFrame,
): Shared[] {
  const out: Shared[] = [];
  const half2 = (w * w + h * h) / 4;
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const here = reference[i]!;
      const left = reference[i - 1]!;
      const right = reference[i + 1]!;
      const up = reference[i - w]!;
      const down = reference[i + w]!;
      if (!(here > 0 && left > 0 && right > 0 && up > 0 && down > 0)) continue;
      const [u, q] = project(fromReference, x + 0.5, y + 0.5);
      const x0 = Math.floor(u - 0.5);
      const y0 = Math.floor(q - 0.5);
      const fx = u - 0.5 - x0;
      const fy = q - 0.5 - y0;
      if (x0 < 0 || y0 < 0 || x0 >= w - 1 || y0 >= h - 1) continue;
      const k = y0 * w + x0;
      const a = light[k]!;
      const b = light[k + 1]!;
      const c = light[k + w]!;
      const d = light[k + w + 1]!;
      if (!(a > 0 && b > 0 && c > 0 && d > 0)) continue;
      const there = (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy;
      const gx = Math.log(right / left) / 2;
      const gy = Math.log(down / up) / 2;
      out.push({
        level: clamp(Math.floor(LEVELS + 2 * Math.log2(here)), 0, LEVELS - 1),
        r2: ((x + 0.5 - w / 2) ** 2 + (y + 0.5 - h / 2) ** 2) / half2,
        s2: ((u - w / 2) ** 2 + (q - h / 2) ** 2) / half2,
        gx,
        gy,
        ratio: Math.log(here / there),
        variance: NOISE ** 2 + OUTLIER_EV ** 2 * (gx * gx + gy * gy),
      });
    }
  return out;
}
