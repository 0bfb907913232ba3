import type { Heap } from "../../kernels/heap";

/**
 * Adds three collapsed planes of half the size, enlarged, to rows y0 to y1 of three planes, which
 * hold a pyramid's finest level.
 */
export function addUp(
  heap: Heap,
  {
    ptr,
    planeBytes,
    width,
    height,
  }: { ptr: number; planeBytes: number; width: number; height: number },
  coarser: readonly number[],
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const row = heap.alloc(width * 4 + 64);
  coarser.forEach((from, c) => {
    const plane = ptr + c * planeBytes;
    heap.k.pyrUp(from, width, height, plane, plane, 1, row, y0, y1);
  });
  heap.release(mark);
}
