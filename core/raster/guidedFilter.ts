import type { Heap } from "../../kernels/heap";
import { boxRows } from "./boxMean";

/**
 * Smooths values along the edges of a guide: in every window they are a line in it.
 *
 * @param values, guide, weights  addresses of w x h floats with room behind; no weights, 0, count
 *   all alike
 * @param radius  of the windows, px
 * @param eps     variance of the guide in a window under which it counts as flat
 * @returns the address of the result in scratch
 * @see He, Sun, Tang, "Guided image filtering", TPAMI 2013
 */
export function guidedFilter(
  heap: Heap,
  values: number,
  guide: number,
  w: number,
  h: number,
  radius: number,
  eps: number,
  weights = 0,
): number {
  const n = w * h;
  const alloc = (): number => heap.alloc(n * 4 + 64);
  const out = alloc();
  const mark = heap.mark();
  const rows = heap.alloc(boxRows(w));
  const k = weights ? alloc() : 0;
  const g = alloc();
  const v = alloc();
  const gg = alloc();
  const gv = alloc();
  let spare = out;
  const mean = (plane: number): number => {
    const to = spare;
    heap.k.boxMean(plane, w, h, radius, rows, to, 0, h);
    spare = plane;
    return to;
  };
  heap.k.guidedProducts(values, guide, weights, n, k, g, v, gg, gv);
  const means = [k && mean(k), mean(g), mean(v), mean(gg), mean(gv)] as const;
  heap.k.guidedLines(...means, n, eps);
  const slope = mean(means[4]);
  const offset = mean(means[2]);
  heap.k.guidedValues(slope, offset, guide, n, out);
  heap.release(mark);
  return out;
}
/** Bytes of scratch that a call takes, its result included. */
export const guidedScratch = (w: number, h: number): number => 6 * (w * h * 4 + 128) + boxRows(w);
