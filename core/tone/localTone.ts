import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { quantiles } from "./quantiles";
import { BASIS_PLANES, WINDOW } from "./toneBasis";
import type { ToneGrid } from "./toneGrid";

export interface ToneSettings { operator: "none" | "plain" | "local"; strength: number; detail: number }

/** What the point-wise renderer needs: local gain in EV = slope * log2(Y) + offset on a grid, planes in the heap, and the placing. */
export interface ToneField {
  width: number; height: number; slopes: number; offsets: number;
  /** shoulder: where the roll-off starts and which linear value becomes white; start >= white means none */
  shoulderStart: number; white: number;
}
export const toneFieldBytes = (grid: { width: number; height: number }): number => grid.width * grid.height * 8;

const MID = Math.log2(0.18);
const KNEE = Math.log2(0.4);
const TOP = Math.log2(1.05);

/**
 * The local tone operator.
 *
 * A local Laplacian filter over log luminance compresses differences above 1.2 EV and keeps or lifts detail below,
 * without halos. Its gain is then written as a locally affine function of log luminance (as in guided filtering, He et
 * al., TPAMI 2013), which carries it to any size edge-true and point-wise: so the preview and the full picture share one
 * field. White balance comes after it and does not move it.
 *
 * @param basis  address of what `toneBasis` made of the grid
 * @param at     where the field's two planes go, with room for `toneFieldBytes` of the grid
 */
export function localTone(heap: Heap, grid: ToneGrid, basis: number, settings: ToneSettings, at: number): ToneField {
  const { width: w, height: h } = grid, n = w * h;
  if (settings.operator !== "local") {
    heap.f32(at, 2).fill(0);
    return { width: 1, height: 1, slopes: at, offsets: at + 4, shoulderStart: 1, white: 1 };
  }
  const mark = heap.mark();
  const plane = (i: number): number => basis + i * n * 4;
  const detail = 1 + settings.detail * 1.5, edges = 1 - 0.8 * settings.strength;
  const gain = heap.alloc(n * 4 + 16), product = heap.alloc(n * 4 + 16);
  heap.k.sumOfThree(1 - detail - edges, plane(BASIS_PLANES.neither), detail, plane(BASIS_PLANES.detail), edges, plane(BASIS_PLANES.edges), n, gain);
  const [q25, q50, q90, q998] = quantiles(heap, gain, n, [0.25, 0.5, 0.9, 0.998]) as [number, number, number, number];
  // mid-tones to just under middle grey; never far from what the photographer's reference frame showed
  const key = Math.max(-2.2, Math.min(2.2, MID - 0.1 - (0.65 * q50 + (0.35 * (q25 + q90)) / 2)));
  // what would lie above display white is drawn in evenly from KNEE on, so that a window keeps its sky
  const top = q998 + key, pull = top > TOP ? (TOP - KNEE) / (top - KNEE) : 1;
  heap.k.placeGain(gain, grid.ptr, n, key, KNEE, pull, product);
  // least squares of gain on log luminance in small windows, then averaged, as in the guided filter
  const offsets = boxMean(heap, gain, w, h, WINDOW), slopes = boxMean(heap, product, w, h, WINDOW);
  heap.k.gainLine(offsets, slopes, plane(BASIS_PLANES.mean), plane(BASIS_PLANES.variance), n, 0.02);
  heap.f32(at, n).set(heap.f32(boxMean(heap, slopes, w, h, 2), n));
  heap.f32(at + n * 4, n).set(heap.f32(boxMean(heap, offsets, w, h, 2), n));
  heap.release(mark);
  return { width: w, height: h, slopes: at, offsets: at + n * 4, shoulderStart: 0.7, white: 1.6 };
}
