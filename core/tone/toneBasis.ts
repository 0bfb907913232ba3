import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { pullPush } from "../raster/pullPush";
import { localLaplacian } from "./localLaplacian";
import { quantiles } from "../math/quantiles";
import type { ToneGrid } from "./toneGrid";

/**
 * What of local tone does not depend on its settings. The filter is linear in its two factors,
 * detail and edges, so three runs of it span every setting, and a slider costs a sum of planes.
 * Planes of the grid's size, one after the other; `light` is the grid with its black filled, which
 * all the others are made of:
 */
export const BASIS_PLANES = {
  neither: 0,
  detail: 1,
  edges: 2,
  mean: 3,
  variance: 4,
  light: 5,
} as const;
export const BASIS_PARTS = 4;
/** Bytes of the tone basis of a grid. */
export const basisBytes = (grid: { width: number; height: number }): number =>
  grid.width * grid.height * 4 * 6;
/** Bytes of scratch for making it. */
export const basisScratch = (grid: { width: number; height: number }): number =>
  grid.width * grid.height * 4 * 12 + (1 << 20);

/**
 * Fills the grid's black after the light round it: a place that shows nothing does not say where
 * the tones beside it should lie, be it a deep shade or what no frame of a panorama covers.
 */
export function fillBlack(
  heap: Heap,
  { width: w, height: h, ptr, floorEv }: ToneGrid,
  basis: number,
): void {
  const n = w * h;
  const cells = heap.f32(ptr, n);
  const known = new Float32Array(2 * n);
  known.set(cells);
  for (let i = 0; i < n; i++) known[n + i] = cells[i]! > floorEv ? 1 : 0;
  heap.f32(basis + BASIS_PLANES.light * n * 4, n).set(pullPush(known, 1, w, h));
}

const SIGMA_EV = 1.2;
/** Radius of the windows in which gain is a line in log luminance, in cells. */
export const WINDOW = 4;

/** Computes one of the BASIS_PARTS; they are independent of each other. */
export function toneBasis(heap: Heap, grid: ToneGrid, basis: number, part: number): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const L = basis + BASIS_PLANES.light * n * 4;
  const plane = (i: number): Float32Array => heap.f32(basis + i * n * 4, n);
  if (part < 3) {
    const [lo, hi] = quantiles(heap, L, n, [0.002, 0.998]) as [number, number];
    plane(part).set(
      heap.f32(
        localLaplacian(
          heap,
          L,
          w,
          h,
          SIGMA_EV,
          part === BASIS_PLANES.detail ? 1 : 0,
          part === BASIS_PLANES.edges ? 1 : 0,
          lo,
          hi,
        ),
        n,
      ),
    );
  } else {
    const mean = heap.f32(boxMean(heap, L, w, h, WINDOW), n);
    const squared = heap.alloc(n * 4 + 16);
    const own = heap.f32(L, n);
    heap.f32(squared, n).forEach((_, i, plane) => {
      plane[i] = own[i]! * own[i]!;
    });
    const square = heap.f32(boxMean(heap, squared, w, h, WINDOW), n);
    const variance = plane(BASIS_PLANES.variance);
    plane(BASIS_PLANES.mean).set(mean);
    for (let i = 0; i < n; i++) variance[i] = Math.max(0, square[i]! - mean[i]! * mean[i]!);
  }
  heap.release(mark);
}
