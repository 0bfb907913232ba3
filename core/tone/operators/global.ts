import type { OperatorInput } from "./operator";
import { BASIS_PLANES } from "../toneBasis";
import { keyOf, quantilesOfLit } from "./place";

/**
 * One curve for the whole picture, as a darkroom print has it: the mid-tones set, the lights drawn
 * in ever more towards the brightest. `strength` mixes it with the plain rendering of the reference
 * frame.
 * @see Reinhard et al., "Photographic tone reproduction for digital images", SIGGRAPH 2002
 *   (equation 4)
 */
export function global({ heap, grid, basis, strength, to }: OperatorInput): void {
  const n = grid.width * grid.height;
  const raw = heap.f32(basis + BASIS_PLANES.light * n * 4, n);
  const out = heap.f32(to, n);
  const key = keyOf(heap, grid, grid.ptr);
  const [white] = quantilesOfLit(heap, grid, grid.ptr, [0.998]) as [number];
  const w2 = 4 ** Math.max(0.2, white + key);
  for (let i = 0; i < n; i++) {
    const light = 2 ** (raw[i]! + key);
    const shown = Math.log2(Math.max(1e-9, (light * (1 + light / w2)) / (1 + light)));
    // the curve halves middle grey; it is given back
    out[i] = raw[i]! + (shown + 0.24 - raw[i]!) * strength;
  }
}
