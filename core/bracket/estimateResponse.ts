import type { SampleType, Samples } from "../../kernels/heap";
import { solveSymmetric } from "../math/solveSymmetric";

/**
 * EV to add to what the profile makes of a sample, at evenly spaced sample values from 0 to the
 * top.
 */
export type ResponseCurve = number[];
export const RESPONSE_KNOTS = 49;

export interface ResponseFrame {
  samples: Samples;
  type: SampleType;
  lut: Float32Array;
  /** EV as the camera wrote it */
  ev: number;
}
export interface FoundResponse {
  curve: ResponseCurve;
  /** RMS in EV by which the exposures contradict each other, by the profile and by the curve */
  byProfileEv: number;
  byCurveEv: number;
}

const CURVE_BINS = 512;
/**
 * Shares of the range that tell nothing: near black noise and rounding rule, near the top clipping.
 */
const LOWEST_USABLE = 0.03;
const HIGHEST_USABLE = 0.975;

/**
 * Estimates how samples stand to light from a bracket whose exposures are known.
 *
 * The brightness that a share of the picture stays below is the same place of the scene in every
 * exposure, so matched quantiles are pairs of samples whose light differs by the known factor; a
 * picture that moved a little has nearly the same ones. The curve is a smooth correction of the
 * profile's own, found by robust least squares, and monotone.
 *
 * @returns undefined where the frames have too little in common to tell
 * @see Grossberg and Nayar, "Determining the camera response from images: what is knowable?", TPAMI
 *   2003 (matched histograms); Debevec and Malik, "Recovering high dynamic range radiance maps from
 *   photographs", SIGGRAPH 1997
 */
export function estimateResponse(frames: readonly ResponseFrame[]): FoundResponse | undefined {
  const usable = frames.filter((f) => f.type !== "f32").sort((a, b) => a.ev - b.ev);
  if (usable.length < 2 || usable.length < frames.length) return undefined;
  const pairs = matchedSamples(usable);
  const n = RESPONSE_KNOTS;
  const offsets = usable.length;
  const size = n + offsets;
  if (pairs.length < 60) return undefined;
  let x = new Array<number>(size).fill(0);
  const residualOf = (p: MatchedSample, by: readonly number[]): number =>
    p.difference + at(by, p.z) - at(by, p.y) + by[n + p.a]! - by[n + p.b]!;
  const rms = (by: readonly number[]): number => {
    let s = 0;
    let w = 0;
    for (const p of pairs) {
      const v = p.weight / (1 + (residualOf(p, by) / 0.5) ** 2);
      s += v * residualOf(p, by) ** 2;
      w += v;
    }
    return Math.sqrt(s / w);
  };
  const byProfileEv = rms(x);
  for (let round = 0; round < 6; round++) {
    const A = Array.from({ length: size }, () => new Array<number>(size).fill(0));
    const b = new Array<number>(size).fill(0);
    const add = (
      terms: readonly (readonly [number, number])[],
      target: number,
      weight: number,
    ): void => {
      for (const [i, u] of terms) {
        for (const [j, v] of terms) A[i]![j]! += weight * u * v;
        b[i]! += weight * u * target;
      }
    };
    let mass = 0;
    for (const p of pairs) {
      const weight = p.weight / (1 + (residualOf(p, x) / 0.12) ** 2) ** 2;
      mass += weight;
      const [i, s] = knot(p.z);
      const [j, t] = knot(p.y);
      add(
        [
          [i, 1 - s],
          [i + 1, s],
          [j, t - 1],
          [j + 1, -t],
          [n + p.a, 1],
          [n + p.b, -1],
        ],
        -p.difference,
        weight,
      );
    }
    // smooth, more so in the darks where samples are coarse; the top is white; the camera's times
    // are near the truth
    for (let i = 1; i < n - 1; i++)
      add(
        [
          [i - 1, 1],
          [i, -2],
          [i + 1, 1],
        ],
        0,
        mass * 0.02,
      );
    for (let i = 0; i < n - 1; i++)
      add(
        [
          [i, 1],
          [i + 1, -1],
        ],
        0,
        mass * (i < LOWEST_USABLE * n + 1 ? 3e-3 : 1e-6),
      );
    add([[n - 1, 1]], 0, mass);
    for (let f = 0; f < offsets; f++) add([[n + f, 1]], 0, mass * 0.3);
    const next = solveSymmetric(A, b);
    if (!next) return undefined;
    x = next;
  }
  return { curve: monotone(x.slice(0, n), usable[0]!.lut), byProfileEv, byCurveEv: rms(x) };
}

/**
 * Whether a found curve explains the exposures so much better than the profile that the profile is
 * not believed.
 */
export const isBetter = ({ byProfileEv, byCurveEv }: FoundResponse): boolean =>
  byProfileEv > 0.07 && byCurveEv < 0.6 * byProfileEv;

/** A table from sample to linear with the curve applied to it. */
export function respond(lut: Float32Array, curve: ResponseCurve | undefined): Float32Array {
  if (!curve || !lut.length) return lut;
  const size = lut.length / 3;
  return lut.map((v, i) => v * 2 ** at(curve, (i % size) / (size - 1)));
}

interface MatchedSample {
  /** places of the darker and the brighter frame */
  a: number;
  b: number;
  /** their samples, 0..1 */
  z: number;
  y: number;
  /** EV by which the profile's light differs from what the times say */
  difference: number;
  weight: number;
}

function matchedSamples(frames: readonly ResponseFrame[]): MatchedSample[] {
  const sums = frames.map((f) => [0, 1, 2].map((c) => cumulated(f, c)));
  const out: MatchedSample[] = [];
  for (let a = 0; a < frames.length; a++)
    for (let b = a + 1; b < frames.length; b++) {
      const apart = frames[b]!.ev - frames[a]!.ev;
      if (apart < 0.3 || apart > 5.5) continue;
      for (let c = 0; c < 3; c++) {
        const A = sums[a]![c]!;
        const B = sums[b]![c]!;
        const log = logOf(frames[a]!.lut, c);
        const logB = logOf(frames[b]!.lut, c);
        let k = 0;
        for (let i = Math.ceil(LOWEST_USABLE * CURVE_BINS); i < HIGHEST_USABLE * CURVE_BINS; i++) {
          const share = A[i + 1]!;
          const own = share - A[i]!;
          if (own < 2e-4) continue;
          while (k < CURVE_BINS - 1 && B[k + 1]! < share) k++;
          const y = (k + (share - B[k]!) / Math.max(1e-9, B[k + 1]! - B[k]!)) / CURVE_BINS;
          const z = (i + 1) / CURVE_BINS;
          if (y < LOWEST_USABLE || y > HIGHEST_USABLE || z > HIGHEST_USABLE) continue;
          // half a step of the file, as EV, in either frame
          const step = 0.5 / (frames[a]!.type === "u8" ? 255 : 2048);
          const slope = (f: (v: number) => number, v: number): number => f(v + step) - f(v - step);
          const spread = slope(log, z) ** 2 + slope(logB, y) ** 2 + 0.02 ** 2;
          out.push({
            a,
            b,
            z,
            y,
            difference: log(z) - logB(y) + apart,
            weight: Math.min(own, 0.01) / spread,
          });
        }
      }
    }
  return out;
}

/** Share of samples below each of BINS + 1 values. */
function cumulated({ samples, type }: ResponseFrame, channel: number): Float64Array {
  const counts = new Float64Array(CURVE_BINS + 1);
  const top = type === "u8" ? 256 : 65536;
  let n = 0;
  // every fifth pixel tells the shares as well
  for (let i = channel; i < samples.length; i += 15, n++)
    counts[Math.floor((samples[i]! * CURVE_BINS) / top) + 1]!++;
  // a byte fills two bins
  if (type === "u8")
    for (let i = 1; i < CURVE_BINS; i += 2) {
      const half = (counts[i]! + counts[i + 1]!) / 2;
      counts[i] = counts[i + 1] = half;
    }
  for (let i = 1; i <= CURVE_BINS; i++) counts[i] = counts[i - 1]! + counts[i]! / n;
  return counts;
}

const logOf = (lut: Float32Array, channel: number) => {
  const size = lut.length / 3;
  return (z: number): number => {
    const p = Math.max(0, Math.min(size - 1.001, z * size - 0.5));
    const i = Math.floor(p);
    const base = channel * size + i;
    return Math.log2(Math.max(1e-7, lut[base]! + (lut[base + 1]! - lut[base]!) * (p - i)));
  };
};

const knot = (z: number): [number, number] => {
  const p = Math.max(0, Math.min(RESPONSE_KNOTS - 1.0001, z * (RESPONSE_KNOTS - 1)));
  const i = Math.floor(p);
  return [i, p - i];
};
const at = (curve: readonly number[], z: number): number => {
  const [i, t] = knot(z);
  return curve[i]! * (1 - t) + curve[i + 1]! * t;
};

/** Keeps the light from falling where samples rise. */
function monotone(curve: number[], lut: Float32Array): number[] {
  const log = logOf(lut, 1);
  let below = -Infinity;
  return curve.map((c, i) => {
    const z = i / (RESPONSE_KNOTS - 1);
    const light = Math.max(below, log(z) + c);
    below = light;
    return light - log(z);
  });
}
