import type { FrameInfo } from "../frame/frame";

/**
 * Two codes of 8 bit in sRGB: by so much a JPEG errs in black, after its quantisation of 8 x 8
 * blocks.
 */
const EIGHT_BIT = 6e-4;
/** Read noise of a camera of 13 stops. */
const SIXTEEN_BIT = 1.2e-4;

/**
 * Noise and quantisation in the dark, as a standard deviation in linear light.
 *
 * @param ev  of the longest exposure that takes part, EV against the scale of the result
 * @returns 0 for floats, of which nothing is known
 */
export function darkNoise({ depth, format }: Pick<FrameInfo, "depth" | "format">, ev = 0): number {
  let own: number;
  if (depth === 8) own = EIGHT_BIT;
  else if (depth === 16 && format !== "exr") own = SIXTEEN_BIT;
  else own = 0;
  return own / 2 ** ev;
}
