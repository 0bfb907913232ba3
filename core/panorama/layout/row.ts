import type { Camera } from "../camera";
import { clamp } from "../../math/clamp";

/** Degrees within which frames count as looking equally high. */
const SAME_ROW_DEGREES = 10;

/**
 * Places of the frames that look about as high as frame i, itself among them; frames without a
 * place are in no row.
 */
export function rowOf(cameras: readonly (Camera | undefined)[], i: number): number[] {
  const high = (c: Camera): number => (Math.asin(clamp(c.rotation[5]!, -1, 1)) * 180) / Math.PI;
  const own = cameras[i];
  return own
    ? cameras.flatMap((c, k) => (c && Math.abs(high(c) - high(own)) < SAME_ROW_DEGREES ? [k] : []))
    : [];
}
