import { clamp } from "./clamp";

/** From 0 at 0 to 1 at 1 without a corner; held beyond either end. */
export function smoothstep(t: number): number {
  const c = clamp(t, 0, 1);
  return c * c * (3 - 2 * c);
}
