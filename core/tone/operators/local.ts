import type { OperatorInput } from "./operator";
import { BASIS_PLANES } from "../toneBasis";
import { place } from "./place";

/**
 * Local Laplacian filtering compresses differences above 1.2 EV and keeps or lifts detail below,
 * without halos.
 * @see Paris, Hasinoff, Kautz, "Local Laplacian filters", SIGGRAPH 2011
 */
export function local({ heap, grid, basis, strength, detail, to }: OperatorInput): void {
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
