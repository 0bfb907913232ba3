import type { Heap } from "../../../kernels/heap";
import type { ToneGrid } from "../toneGrid";
import { quantiles } from "../../math/quantiles";

const MID = Math.log2(0.18);
const KNEE = Math.log2(0.4);
const TOP = Math.log2(1.05);

/**
 * Quantiles of a toned plane over the cells that are not black: how much of a picture shows nothing
 * does not say how bright the rest is.
 */
export function quantilesOfLit(
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
export function keyOf(heap: Heap, grid: ToneGrid, plane: number): { key: number; top: number } {
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
export function place(heap: Heap, grid: ToneGrid, plane: number): void {
  const n = grid.width * grid.height;
  const { key, top } = keyOf(heap, grid, plane);
  const pull = top > TOP ? (TOP - KNEE) / (top - KNEE) : 1;
  const v = heap.f32(plane, n);
  for (let i = 0; i < n; i++) {
    const t = v[i]! + key;
    v[i] = Math.min(t, KNEE) + Math.max(0, t - KNEE) * pull;
  }
}
