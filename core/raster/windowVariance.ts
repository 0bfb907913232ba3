import type { Heap } from "../../kernels/heap";
import { boxRows } from "./boxMean";

/**
 * Variance of a plane of w x h floats in windows of 2 radius + 1, ends repeated.
 *
 * @returns its address in scratch
 */
export function windowVariance(
  heap: Heap,
  plane: number,
  w: number,
  h: number,
  radius: number,
): number {
  const n = w * h;
  const variance = heap.alloc(n * 4 + 64);
  const mark = heap.mark();
  const mean = heap.alloc(n * 4 + 64);
  const squares = heap.alloc(n * 4 + 64);
  const rows = heap.alloc(boxRows(w));
  heap.k.squares(plane, n, variance);
  heap.k.boxMean(plane, w, h, radius, rows, mean, 0, h);
  heap.k.boxMean(variance, w, h, radius, rows, squares, 0, h);
  heap.k.varianceOf(mean, squares, n, variance);
  heap.release(mark);
  return variance;
}
