import type { OperatorInput } from "./operator";
import { BASIS_PLANES } from "../toneBasis";
import { place } from "./place";

/** EV of texture beside its region that is kept as it is; what is more is drawn in. */
const KEPT_EV = 1.2;

/**
 * Regions of different light are brought together, and what is within each keeps its contrast: a
 * window and the room around it share the display, each with its own texture. Their borders are
 * where the scene has them, so that nothing glows.
 * @see Farbman et al., "Edge-preserving decompositions for multi-scale tone and detail
 *   manipulation", SIGGRAPH 2008
 */
export function local({ heap, grid, basis, strength, detail, to }: OperatorInput): void {
  const n = grid.width * grid.height;
  const mark = heap.mark();
  const plane = (i: number): Float32Array => heap.f32(basis + i * n * 4, n);
  const light = plane(BASIS_PLANES.light);
  const regions = plane(BASIS_PLANES.regions);
  const lift = detail < 0 ? 1 + detail : 1 + detail * 1.5;
  const apart = 1 - 0.8 * strength;
  const beyond = 1 - 0.6 * strength;
  const base = heap.alloc(n * 4 + 64);
  const around = heap.f32(base, n);
  const out = heap.f32(to, n);
  for (let i = 0; i < n; i++) {
    const texture = light[i]! - regions[i]!;
    const size = Math.abs(texture);
    const kept = Math.min(size, KEPT_EV) + Math.max(0, size - KEPT_EV) * beyond;
    around[i] = regions[i]! * apart;
    out[i] = around[i]! + Math.sign(texture) * kept * lift;
  }
  place(heap, grid, to, base);
  heap.release(mark);
}
