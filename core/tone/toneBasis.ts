import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { smoothRegions } from "../raster/smoothRegions";
import { pullPush } from "../raster/pullPush";
import type { ToneGrid } from "./toneGrid";

/**
 * What of local tone does not depend on its settings, so that a slider costs a sum of planes: mean
 * and variance of small windows, and the light of regions. Planes of the grid's size, one after the
 * other; `light` is the grid with its black filled, which all the others are made of:
 */
export const BASIS_PLANES = {
  mean: 0,
  variance: 1,
  light: 2,
  regions: 3,
} as const;
export const BASIS_PARTS = 2;
/** Bytes of the tone basis of a grid. */
export const basisBytes = (grid: { width: number; height: number }): number =>
  grid.width * grid.height * 4 * 4;
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

/** Regions of one light: steps of some EV part them, and what is less belongs to them as texture. */
const REGIONS = { strength: 2500, edge: 0.45 };
/** Radius of the windows in which gain is a line in log luminance, in cells. */
export const WINDOW = 4;

/** Computes one of the BASIS_PARTS; they are independent of each other. */
export function toneBasis(heap: Heap, grid: ToneGrid, basis: number, part: number): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const L = basis + BASIS_PLANES.light * n * 4;
  const plane = (i: number): Float32Array => heap.f32(basis + i * n * 4, n);
  if (part === 1) {
    plane(BASIS_PLANES.regions).set(smoothRegions(heap.f32(L, n), w, h, REGIONS));
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
