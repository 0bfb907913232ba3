import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { localLaplacian } from "./localLaplacian";
import { quantiles } from "./quantiles";
import type { ToneGrid } from "./toneGrid";

/**
 * What of local tone does not depend on its settings. The filter is linear in its two factors, detail and edges, so
 * three runs of it span every setting, and a slider costs a sum of planes. Planes of the grid's size, one after the other:
 */
export const BASIS_PLANES = { neither: 0, detail: 1, edges: 2, mean: 3, variance: 4 } as const;
export const BASIS_PARTS = 4;
export const basisBytes = (grid: { width: number; height: number }): number => grid.width * grid.height * 4 * 5;
export const basisScratch = (grid: { width: number; height: number }): number => grid.width * grid.height * 4 * 12 + (1 << 20);

const SIGMA_EV = 1.2;
const FLOOR_EV = -14;
/** Radius of the windows in which gain is a line in log luminance, in cells. */
export const WINDOW = 4;

/** Computes one of the BASIS_PARTS; they are independent of each other. */
export function toneBasis(heap: Heap, grid: ToneGrid, basis: number, part: number): void {
  const { width: w, height: h } = grid, n = w * h, mark = heap.mark();
  const L = heap.alloc(n * 4 + 16), lifted = heap.f32(L, n), raw = heap.f32(grid.ptr, n);
  for (let i = 0; i < n; i++) lifted[i] = Math.max(FLOOR_EV, raw[i]!);
  const plane = (i: number): Float32Array => heap.f32(basis + i * n * 4, n);
  if (part < 3) {
    const [lo, hi] = quantiles(heap, L, n, [0.002, 0.998]) as [number, number];
    plane(part).set(heap.f32(localLaplacian(heap, L, w, h, SIGMA_EV, part === BASIS_PLANES.detail ? 1 : 0, part === BASIS_PLANES.edges ? 1 : 0, lo, hi), n));
  } else {
    const mean = heap.f32(boxMean(heap, L, w, h, WINDOW), n);
    for (let i = 0; i < n; i++) lifted[i]! *= lifted[i]!;
    const square = heap.f32(boxMean(heap, L, w, h, WINDOW), n), variance = plane(BASIS_PLANES.variance);
    plane(BASIS_PLANES.mean).set(mean);
    for (let i = 0; i < n; i++) variance[i] = Math.max(0, square[i]! - mean[i]! * mean[i]!);
  }
  heap.release(mark);
}
