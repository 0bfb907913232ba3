import type { Heap } from "../../kernels/heap";

/** Log radiance in EV and the vote of each sample (0..1), halved from level to level. Planes live in the heap. */
export interface LogPyramid { levels: { w: number; h: number; log: number; vote: number }[] }

export interface NoiseModel { /** electrons at 1.0 */ gain: number; /** read and quantisation noise, in units of 1.0 */ read: number }
/** A camera of the usual kind at base ISO, with 8-bit quantisation: what is assumed where nothing is measured. */
export const USUAL_NOISE: NoiseModel = { gain: 20000, read: 1e-3 };

/** Variance in EV^2 at which a sample keeps half its vote: finer differences are model error, not noise. */
const TRUSTED = 0.05 ** 2;

export interface ReducedFrame { samples: Uint8Array | Uint16Array; width: number; height: number; lut: Float32Array }

/**
 * Log radiance of a reduced frame.
 *
 * @param frame  RGB interleaved, with the three tables (R, G, B after each other) from sample to linear
 * @param ev     the frame's exposure against the reference, subtracted so that all frames share one scale
 */
export function logPyramid(heap: Heap, frame: ReducedFrame, ev: number, noise: NoiseModel = USUAL_NOISE): LogPyramid {
  const { samples, width: w, height: h, lut } = frame;
  const n = w * h, size = lut.length / 3;
  const log = heap.alloc(n * 4 + 16), vote = heap.alloc(n * 4 + 16);
  const L = heap.f32(log, n), V = heap.f32(vote, n);
  const { logs, votes } = toneTables(noise);
  for (let i = 0, p = 0; i < n; i++, p += 3) {
    const r = lut[samples[p]!]!, g = lut[size + samples[p + 1]!]!, b = lut[2 * size + samples[p + 2]!]!;
    const t = (Math.sqrt(0.25 * r + 0.5 * g + 0.25 * b) * STEPS + 0.5) | 0;
    const clip = (0.97 - (r > g ? (r > b ? r : b) : g > b ? g : b)) * 5.5;
    L[i] = logs[t]! - ev;
    V[i] = clip <= 0 ? 0 : clip < 1 ? clip * votes[t]! : votes[t]!;
  }
  return reduceLevels(heap, { w, h, log, vote });
}

const STEPS = 16384;

/** log2 and vote of a level, over the square root of light: fine in the darks, where a step of a camera's file is wider. */
function toneTables(noise: NoiseModel): { logs: Float32Array; votes: Float32Array } {
  const logs = new Float32Array(STEPS + 2), votes = new Float32Array(STEPS + 2), floor = noise.read * 0.5;
  for (let t = 0; t < STEPS + 2; t++) {
    const y = Math.max(floor, (t / STEPS) ** 2);
    const spread = (y / noise.gain + noise.read * noise.read) / (y * y * 0.48);
    logs[t] = Math.log2(y);
    votes[t] = TRUSTED / (TRUSTED + spread);
  }
  return { logs, votes };
}

/** The levels above a given finest one, down to about 60 px. */
export function reduceLevels(heap: Heap, finest: LogPyramid["levels"][number]): LogPyramid {
  const levels = [finest];
  const row = heap.alloc(finest.w * 4 + 64);
  for (let l = finest; Math.max(l.w, l.h) > 130 && Math.min(l.w, l.h) > 40;) {
    const w = (l.w + 1) >> 1, h = (l.h + 1) >> 1;
    const next = { w, h, log: heap.alloc(w * h * 4 + 16), vote: heap.alloc(w * h * 4 + 16) };
    heap.k.pyrDown(l.log, l.w, l.h, next.log, row);
    heap.k.pyrDown(l.vote, l.w, l.h, next.vote, row);
    levels.push((l = next));
  }
  return { levels };
}
