import type { Heap } from "../../kernels/heap";
import { ghostVotes } from "../bracket/foldFrame";
import type { LaidFrame } from "../bracket/mertens";
import type { Box } from "../raster/coveredRectangle";
import { boxMean } from "../raster/boxMean";
import { differences, pyramidShape, reduceAll } from "../raster/pyramid";

/** Levels from which the sharpest frame is taken; what is coarser is averaged by sharpness. */
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
export function sharpness(heap: Heap, { ptr, width: w, height: h, covered, ghosts }: LaidFrame, energy: number): void {
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
      heap.k.pyrUp(energy + below.at, l.w, l.h, zero, up, 1, row, 0, l.h);
      const e = heap.f32(to, count), u = heap.f32(up, count);
      for (let k = 0; k < count; k++) e[k]! += FROM_BELOW * Math.max(0, u[k]!);
    }
    if (covered) forgetOutside(heap.f32(to, count), l.w, l.h, covered, w / l.w);
    if (ghosts) giveAway(heap, to, l.w, l.h, { ...ghosts, scale: (ghosts.scale * l.w) / w });
    heap.release(held);
  }
  // the coarsest level has no frame of its own: a blurred frame's light is not where it belongs either
  const above = levels.at(-2)!, last = levels.at(-1)!;
  heap.k.pyrDown(energy + above.at, above.w, above.h, energy + last.at, row, 0, last.h);
  const e = heap.f32(energy + last.at, last.w * last.h);
  for (let k = 0; k < e.length; k++) e[k] = Math.max(0, e[k]!) ** 2 + 1e-16;
  heap.release(mark);
}
/** Beyond the frame's own border there is nothing to be sharp, and the border itself is no edge. */
function forgetOutside(e: Float32Array, w: number, h: number, { x0, y0, x1, y1 }: Box, scale: number): void {
  const left = x0 > 0.01 ? Math.ceil(x0 / scale) + RIM : 0, top = y0 > 0.01 ? Math.ceil(y0 / scale) + RIM : 0, right = x1 < w * scale - 0.01 ? Math.floor(x1 / scale) - RIM : w, bottom = y1 < h * scale - 0.01 ? Math.floor(y1 / scale) - RIM : h;
  for (let y = 0; y < h; y++) {
    if (y < top || y >= bottom) { e.fill(0, y * w, (y + 1) * w); continue; }
    e.fill(0, y * w, y * w + left);
    e.fill(0, y * w + Math.max(left, right), (y + 1) * w);
  }
}
/** What belongs to another frame by hand is sharp in that one alone. */
function giveAway(heap: Heap, energy: number, w: number, h: number, ghosts: NonNullable<LaidFrame["ghosts"]>): void {
  const mark = heap.mark(), at = heap.alloc(w * 4 + 64);
  for (let y = 0; y < h; y++) if (ghostVotes(heap, ghosts, y, 0, w, at)) {
    const e = heap.f32(energy + y * w * 4, w), votes = heap.f32(at, w);
    for (let x = 0; x < w; x++) e[x]! *= votes[x]! ** 4;
  }
  heap.release(mark);
}
const RIM = 4;
export const sharpnessScratch = (w: number, h: number): number => pyramidShape(w, h, FOCUS_LEVELS).bytes + w * h * 4 * 4 + w * 32 + (1 << 14);

/** Takes one channel's coefficients where this frame is the sharpest so far; the coarsest level is summed by sharpness. */
export function takeChannel(heap: Heap, { ptr, width: w, height: h }: LaidFrame, channel: number, energy: number, best: number, sum: number): void {
  const mark = heap.mark(), shape = pyramidShape(w, h, FOCUS_LEVELS), own = heap.alloc(shape.bytes);
  heap.k.channelOf(ptr, w * h, channel, own);
  reduceAll(heap, own, shape);
  differences(heap, own, shape);
  shape.levels.forEach((l, i) => {
    if (i === shape.levels.length - 1) heap.k.addProduct(own + l.at, energy + l.at, l.w * l.h, sum + l.at);
    else heap.k.takeWhere(energy + l.at, best + l.at, own + l.at, l.w * l.h, sum + l.at);
  });
  heap.release(mark);
}

export const channelScratch = (w: number, h: number): number => pyramidShape(w, h, FOCUS_LEVELS).bytes + w * 8 + (1 << 14);

/** On one level: which frame is the sharpest at each sample (its place plus 1), and the sum of all frames' sharpness. */
export interface Won { sources: number; total: number; level: number; frame: number }

/** Makes this frame's sharpness the one to be beaten, and notes where it won. */
export function keepBest(heap: Heap, w: number, h: number, energy: number, best: number, won: Won): void {
  const shape = pyramidShape(w, h, FOCUS_LEVELS);
  shape.levels.forEach((l, i) => {
    const n = l.w * l.h;
    if (i === shape.levels.length - 1) { heap.k.addPlane(energy + l.at, n, best + l.at); return; }
    if (i === won.level) { const e = heap.f32(energy + l.at, n), b = heap.f32(best + l.at, n), s = heap.u8(won.sources, n); for (let k = 0; k < n; k++) if (e[k]! > b[k]!) s[k] = won.frame + 1; heap.k.addPlane(energy + l.at, n, won.total); }
    heap.k.maxPlane(energy + l.at, n, best + l.at);
  });
}

/** Divides the summed coarsest level by its weights, which lie with the best. */
export function averageCoarsest(heap: Heap, w: number, h: number, sum: number, best: number): void {
  const l = pyramidShape(w, h, FOCUS_LEVELS).levels.at(-1)!;
  heap.k.divideBy(sum + l.at, best + l.at, l.w * l.h);
}
