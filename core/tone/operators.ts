import type { Heap } from "../../kernels/heap";
import { guidedFilter } from "../raster/guidedFilter";
import { quantiles } from "../math/quantiles";
import { BASIS_PLANES } from "./toneBasis";
import type { ToneGrid } from "./toneGrid";

/**
 * Local ones first. All work on log2 luminance of the tone grid and leave the toned plane in EV,
 * display white at 0.
 */
export const OPERATORS = ["local", "base", "global"] as const;
export type Operator = (typeof OPERATORS)[number];

export interface OperatorInput {
  heap: Heap;
  grid: ToneGrid;
  /** address of what toneBasis made of the grid */
  basis: number;
  strength: number;
  detail: number;
  /** where the result goes, n floats */
  to: number;
}

const MID = Math.log2(0.18);
const KNEE = Math.log2(0.4);
const TOP = Math.log2(1.05);

/**
 * Quantiles of a toned plane over the cells that are not black: how much of a picture shows nothing
 * does not say how bright the rest is.
 */
function quantilesOfLit(
  heap: Heap,
  grid: ToneGrid,
  plane: number,
  shares: readonly number[],
): number[] {
  const n = grid.width * grid.height;
  const mark = heap.mark();
  const source = heap.f32(grid.ptr, n);
  const toned = heap.f32(plane, n);
  const at = heap.alloc(n * 4 + 16);
  const lit = heap.f32(at, n);
  let count = 0;
  for (let i = 0; i < n; i++) if (source[i]! > grid.floorEv) lit[count++] = toned[i]!;
  const found = count ? quantiles(heap, at, count, shares) : shares.map(() => MID);
  heap.release(mark);
  return found;
}

/** The mid-tones of a plane, EV. */
function middleOf(heap: Heap, grid: ToneGrid, plane: number): number {
  const [q25, q50, q90] = quantilesOfLit(heap, grid, plane, [0.25, 0.5, 0.9]) as [
    number,
    number,
    number,
  ];
  return 0.65 * q50 + (0.35 * (q25 + q90)) / 2;
}

/** EV by which the mid-tones are moved at most from where the reference frame has them. */
const FARTHEST_EV = 2.2;
/**
 * Mid-tones to just under middle grey; never far from what the photographer's reference frame
 * showed.
 */
function keyOf(heap: Heap, grid: ToneGrid, plane: number): { key: number; top: number } {
  const toned = middleOf(heap, grid, plane);
  const frame = middleOf(heap, grid, grid.ptr);
  const [q998] = quantilesOfLit(heap, grid, plane, [0.998]) as [number];
  const key = Math.max(frame - FARTHEST_EV, Math.min(frame + FARTHEST_EV, MID - 0.1)) - toned;
  return { key, top: q998 + key };
}

/**
 * Raises a plane to its place and draws what would lie above display white in evenly from KNEE on,
 * so that a window keeps its sky.
 */
function place(heap: Heap, grid: ToneGrid, plane: number): void {
  const n = grid.width * grid.height;
  const { key, top } = keyOf(heap, grid, plane);
  const pull = top > TOP ? (TOP - KNEE) / (top - KNEE) : 1;
  const v = heap.f32(plane, n);
  for (let i = 0; i < n; i++) {
    const t = v[i]! + key;
    v[i] = Math.min(t, KNEE) + Math.max(0, t - KNEE) * pull;
  }
}

/**
 * Local Laplacian filtering compresses differences above 1.2 EV and keeps or lifts detail below,
 * without halos.
 * @see Paris, Hasinoff, Kautz, "Local Laplacian filters", SIGGRAPH 2011
 */
function local({ heap, grid, basis, strength, detail, to }: OperatorInput): void {
  const n = grid.width * grid.height;
  const plane = (i: number): number => basis + i * n * 4;
  const lift = detail < 0 ? 1 + detail : 1 + detail * 1.5;
  const edges = 1 - 0.8 * strength;
  heap.k.sumOfThree(
    1 - lift - edges,
    plane(BASIS_PLANES.neither),
    lift,
    plane(BASIS_PLANES.detail),
    edges,
    plane(BASIS_PLANES.edges),
    n,
    to,
  );
  place(heap, grid, to);
}

/**
 * A base of the large differences is compressed to what a display holds, the detail over it kept:
 * soft and even, with the base from an edge-keeping filter, so that no edge glows.
 * @see Durand and Dorsey, "Fast bilateral filtering for the display of high-dynamic-range images",
 *   SIGGRAPH 2002; He, Sun, Tang, "Guided image filtering", TPAMI 2013 (the filter)
 */
function baseAndDetail({ heap, grid, basis, strength, detail, to }: OperatorInput): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const L = basis + BASIS_PLANES.light * n * 4;
  const l = heap.f32(L, n);
  // differences in EV below it are smoothed away
  const base = guidedFilter(
    heap,
    L,
    L,
    w,
    h,
    Math.max(3, Math.round(Math.max(w, h) * 0.025)),
    0.55 ** 2,
  );
  const b = heap.f32(base, n);
  const [lo, hi] = quantilesOfLit(heap, grid, base, [0.005, 0.995]) as [number, number];
  // at full strength the base spans five stops
  const factor = 1 - strength * Math.max(0, 1 - 5 / Math.max(5, hi - lo));
  const lift = 1 + detail;
  const out = heap.f32(to, n);
  for (let i = 0; i < n; i++) out[i] = b[i]! * factor + (l[i]! - b[i]!) * lift;
  heap.release(mark);
  place(heap, grid, to);
}

/**
 * One curve for the whole picture, as a darkroom print has it: the mid-tones set, the lights drawn
 * in ever more towards the brightest. `strength` mixes it with the plain rendering of the reference
 * frame.
 * @see Reinhard et al., "Photographic tone reproduction for digital images", SIGGRAPH 2002
 *   (equation 4)
 */
function global({ heap, grid, basis, strength, to }: OperatorInput): void {
  const n = grid.width * grid.height;
  const raw = heap.f32(basis + BASIS_PLANES.light * n * 4, n);
  const out = heap.f32(to, n);
  const { key } = keyOf(heap, grid, grid.ptr);
  const [white] = quantilesOfLit(heap, grid, grid.ptr, [0.998]) as [number];
  const w2 = 4 ** Math.max(0.2, white + key);
  for (let i = 0; i < n; i++) {
    const light = 2 ** (raw[i]! + key);
    const shown = Math.log2(Math.max(1e-9, (light * (1 + light / w2)) / (1 + light)));
    // the curve halves middle grey; it is given back
    out[i] = raw[i]! + (shown + 0.24 - raw[i]!) * strength;
  }
}

export const operators: Record<Operator, (input: OperatorInput) => void> = {
  local,
  base: baseAndDetail,
  global,
};
