import { SAMPLE_BYTES, SAMPLE_KIND, type Heap, type SampleType } from "../../kernels/heap";

/**
 * Log radiance in EV and the confidence of each sample (0..1), halved from level to level. Planes
 * live in the heap.
 */
export interface LogPyramid {
  levels: { w: number; h: number; log: number; confidence: number }[];
}

export interface NoiseModel {
  /** electrons at 1.0 */
  gain: number;
  /** read and quantisation noise, in units of 1.0 */
  read: number;
}
/**
 * A camera of the usual kind at base ISO, with 8-bit quantisation: what is assumed where nothing is
 * measured.
 */
export const USUAL_NOISE: NoiseModel = { gain: 20000, read: 1e-3 };

/**
 * Variance in EV^2 at which a sample keeps half its confidence: finer differences are model error,
 * not noise.
 */
export const TRUSTED = 0.05 ** 2;

/**
 * RGB interleaved at an address of the heap, with the three tables (R, G, B after each other) from
 * sample to linear.
 */
export interface ReducedFrame {
  ptr: number;
  type: SampleType;
  width: number;
  height: number;
  lut: Float32Array;
  /** px of the blocks in which the file packs brightness, if it does */
  block?: number;
}

/**
 * Log radiance of a reduced frame.
 *
 * @param ev  the frame's exposure against the reference, subtracted so that all frames share one
 *   scale
 */
export function logPyramid(
  heap: Heap,
  frame: ReducedFrame,
  ev: number,
  noise: NoiseModel = USUAL_NOISE,
): LogPyramid {
  const { ptr, type, width: w, height: h } = frame;
  const log = heap.alloc(w * h * 4 + 16);
  const confidence = heap.alloc(w * h * 4 + 16);
  const mark = heap.mark();
  const { logs, confidences } = toneTables(noise);
  const tables = [heap.put(logs), heap.put(confidences)] as const;
  const lut = heap.putTables(frame.lut, type);
  const row = heap.alloc(w * 16);
  for (let y = 0; y < h; y++) {
    heap.k.linearise(ptr + y * w * 3 * SAMPLE_BYTES[type], SAMPLE_KIND[type], w, lut, row);
    heap.k.logRow(row, w, ...tables, STEPS, ev, log + y * w * 4, confidence + y * w * 4);
  }
  heap.release(mark);
  return reduceLevels(heap, { w, h, log, confidence });
}

const STEPS = 16384;

/**
 * log2 and confidence of a level, over the square root of light: fine in the darks, where a step of
 * a camera's file is wider.
 */
function toneTables(noise: NoiseModel): { logs: Float32Array; confidences: Float32Array } {
  const logs = new Float32Array(STEPS + 2);
  const confidences = new Float32Array(STEPS + 2);
  const floor = noise.read * 0.5;
  for (let t = 0; t < STEPS + 2; t++) {
    const y = Math.max(floor, (t / STEPS) ** 2);
    const spread = (y / noise.gain + noise.read * noise.read) / (y * y * 0.48);
    logs[t] = Math.log2(y);
    confidences[t] = TRUSTED / (TRUSTED + spread);
  }
  return { logs, confidences };
}

/** The levels above a given finest one, down to about 60 px. */
export function reduceLevels(heap: Heap, finest: LogPyramid["levels"][number]): LogPyramid {
  const levels = [finest];
  const row = heap.alloc(finest.w * 4 + 64);
  for (let l = finest; Math.max(l.w, l.h) > 130 && Math.min(l.w, l.h) > 40;) {
    const w = (l.w + 1) >> 1;
    const h = (l.h + 1) >> 1;
    const next = { w, h, log: heap.alloc(w * h * 4 + 16), confidence: heap.alloc(w * h * 4 + 16) };
    heap.k.pyrDown(l.log, l.w, l.h, next.log, row, 0, next.h);
    heap.k.pyrDown(l.confidence, l.w, l.h, next.confidence, row, 0, next.h);
    levels.push((l = next));
  }
  return { levels };
}
