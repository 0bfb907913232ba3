import type { Heap } from "../../kernels/heap";

const FROM = -64;
const PER_EV = 256;
const BINS = 128 * PER_EV;
/** Bytes of scratch that a call takes. */
export const QUANTILE_SCRATCH = BINS * 4 + (1 << 10);

/** Values below which the given shares of a plane in EV (n values at `src`) lie, to 1/256 EV. */
export function quantiles(heap: Heap, src: number, n: number, shares: readonly number[]): number[] {
  const mark = heap.mark();
  const at = heap.alloc(BINS * 4);
  const counts = heap.i32(at, BINS);
  counts.fill(0);
  heap.k.histogram(src, n, FROM, PER_EV, BINS, at);
  const found = shares.map((share) => {
    let left = Math.min(n - 1, Math.floor(share * n));
    let i = 0;
    while (left >= counts[i]!) left -= counts[i++]!;
    return FROM + (i + 0.5) / PER_EV;
  });
  heap.release(mark);
  return found;
}
