import type { Heap } from "../../kernels/heap";

/**
 * Mean over a square of 2 r + 1 of the plane at `src`, edges repeated.
 *
 * @returns the address of the new plane in scratch
 */
export function boxMean(heap: Heap, src: number, w: number, h: number, r: number): number {
  const dst = heap.alloc(w * h * 4 + 16);
  const mark = heap.mark();
  heap.k.boxMean(src, w, h, r, heap.alloc(boxRows(w)), dst, 0, h);
  heap.release(mark);
  return dst;
}

/** Bytes that the kernel needs beside the planes. */
export const boxRows = (w: number): number => w * 16 + 64;
