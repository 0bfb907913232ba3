import type { Heap } from "../../kernels/heap";
import type { LaidFrame } from "../bracket/mertens";
import { boxMean } from "../raster/boxMean";
import { differences, pyramidShape, reduceAll } from "../raster/pyramid";

/** Levels from which the sharpest frame is taken; what is coarser is averaged. */
export const FOCUS_LEVELS = 6;
/** Share of the next coarser level's sharpness that counts on a level: what is sharp is so on several scales, noise is not. */
const FROM_BELOW = 0.4;

/**
 * How sharp a frame is everywhere and on every scale: mean square of its Laplacian pyramid's coefficients over a small
 * window, with the coarser levels' word added, so that the choice is one and the same over space and scale.
 *
 * @param energy  address of a pyramid block of FOCUS_LEVELS levels
 * @see Burt and Kolczynski, "Enhanced image capture through fusion", ICCV 1993
 */
export function sharpness(heap: Heap, { ptr, width: w, height: h }: LaidFrame, energy: number): void {
  const mark = heap.mark(), shape = pyramidShape(w, h, FOCUS_LEVELS), own = heap.alloc(shape.bytes), n = w * h, inner = heap.mark();
  const [r, g, b] = [0, 1, 2].map((c) => { const p = heap.alloc(n * 4 + 64); heap.k.channelOf(ptr, n, c, p); return p; }) as [number, number, number];
  heap.k.sumOfThree(0.25, r, 0.5, g, 0.25, b, n, own);
  heap.release(inner);
  reduceAll(heap, own, shape);
  differences(heap, own, shape);
  const levels = shape.levels, row = heap.alloc(w * 4 + 64);
  for (let i = levels.length - 2; i >= 0; i--) {
    const l = levels[i]!, at = own + l.at, count = l.w * l.h, held = heap.mark(), square = heap.alloc(count * 4 + 64);
    heap.f32(square, count).fill(0);
    heap.k.addProduct(at, at, count, square);
    const mean = boxMean(heap, square, l.w, l.h, 2), to = energy + l.at;
    heap.f32(to, count).set(heap.f32(mean, count));
    if (i < levels.length - 2) {
      const below = levels[i + 1]!, up = heap.alloc(count * 4 + 64), zero = heap.alloc(count * 4 + 64);
      heap.f32(zero, count).fill(0);
      heap.k.pyrUp(energy + below.at, l.w, l.h, zero, up, 1, row);
      const e = heap.f32(to, count), u = heap.f32(up, count);
      for (let k = 0; k < count; k++) e[k]! += FROM_BELOW * Math.max(0, u[k]!);
    }
    heap.release(held);
  }
  heap.release(mark);
}
export const sharpnessScratch = (w: number, h: number): number => pyramidShape(w, h, FOCUS_LEVELS).bytes + w * h * 4 * 4 + w * 16 + (1 << 14);

/** Takes one channel's coefficients where this frame is the sharpest so far; the coarsest level is summed. */
export function takeChannel(heap: Heap, { ptr, width: w, height: h }: LaidFrame, channel: number, energy: number, best: number, sum: number): void {
  const mark = heap.mark(), shape = pyramidShape(w, h, FOCUS_LEVELS), own = heap.alloc(shape.bytes);
  heap.k.channelOf(ptr, w * h, channel, own);
  reduceAll(heap, own, shape);
  differences(heap, own, shape);
  shape.levels.forEach((l, i) => {
    if (i === shape.levels.length - 1) heap.k.addPlane(own + l.at, l.w * l.h, sum + l.at);
    else heap.k.takeWhere(energy + l.at, best + l.at, own + l.at, l.w * l.h, sum + l.at);
  });
  heap.release(mark);
}

/** Makes this frame's sharpness the one to be beaten, and notes on the level `noted` where it won. */
export function keepBest(heap: Heap, w: number, h: number, energy: number, best: number, won: { sources: number; level: number; frame: number }): void {
  const shape = pyramidShape(w, h, FOCUS_LEVELS);
  shape.levels.slice(0, -1).forEach((l, i) => {
    const n = l.w * l.h;
    if (i === won.level) { const e = heap.f32(energy + l.at, n), b = heap.f32(best + l.at, n), s = heap.u8(won.sources, n); for (let k = 0; k < n; k++) if (e[k]! > b[k]!) s[k] = won.frame + 1; }
    heap.k.maxPlane(energy + l.at, n, best + l.at);
  });
}

/** Divides the summed coarsest level by the number of frames. */
export function averageCoarsest(heap: Heap, w: number, h: number, sum: number, frames: number): void {
  const l = pyramidShape(w, h, FOCUS_LEVELS).levels.at(-1)!, v = heap.f32(sum + l.at, l.w * l.h);
  for (let i = 0; i < v.length; i++) v[i]! /= frames;
}
