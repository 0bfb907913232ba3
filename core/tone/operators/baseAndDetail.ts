import type { OperatorInput } from "./operator";
import { BASIS_PLANES } from "../toneBasis";
import { guidedFilter } from "../../raster/guidedFilter";
import { quantilesOfLit, place } from "./place";

/**
 * A base of the large differences is compressed to what a display holds, the detail over it kept:
 * soft and even, with the base from an edge-keeping filter, so that no edge glows.
 * @see Durand and Dorsey, "Fast bilateral filtering for the display of high-dynamic-range images",
 *   SIGGRAPH 2002; He, Sun, Tang, "Guided image filtering", TPAMI 2013 (the filter)
 */
export function baseAndDetail({ heap, grid, basis, strength, detail, to }: OperatorInput): void {
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
  for (let i = 0; i < n; i++) {
    const texture = l[i]! - b[i]!;
    b[i]! *= factor;
    out[i] = b[i]! + texture * lift;
  }
  place(heap, grid, to, base);
  heap.release(mark);
}
