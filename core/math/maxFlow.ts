import type { Heap } from "../../kernels/heap";

/**
 * The minimum cut of a grid graph with four neighbours: which cells end on the source's side.
 *
 * Capacities are symmetric between neighbours.
 *
 * @param terminal  per cell capacity from the source less capacity to the sink
 * @param right     per cell capacity to its right neighbour; `down` to the one below
 * @see Boykov and Kolmogorov, "An experimental comparison of min-cut/max-flow algorithms for energy
 *   minimization in vision", TPAMI 2004
 */
export function minimumCut(
  heap: Heap,
  w: number,
  h: number,
  terminal: Float32Array,
  right: Float32Array,
  down: Float32Array,
): Uint8Array {
  const mark = heap.mark();
  const sides = heap.alloc(w * h);
  heap.k.minimumCut(
    w,
    h,
    heap.put(terminal),
    heap.put(right),
    heap.put(down),
    heap.alloc(w * h * WORK_BYTES),
    sides,
  );
  const found = heap.u8(sides, w * h).slice();
  heap.release(mark);
  return found;
}
const WORK_BYTES = 34;
/** Scratch that a cut of a graph of so many cells takes. */
export const cutScratch = (cells: number): number => cells * (WORK_BYTES + 13) + 1024;
