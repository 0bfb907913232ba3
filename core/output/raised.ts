import { decode, SPACES } from "../colour/spaces";
import { GAIN_OFFSET } from "./gainRows";

/** What white is shown at, cd/m² (ITU-R BT.2408-7). */
export const WHITE_NITS = 203;
/** The largest code of 16 bits. */
export const MOST_CODE = 65535;

let lights: Float32Array | undefined;

/** Light of each code of 16 bits in Rec. 2020, white at 1. */
const lightTable = (): Float32Array =>
  (lights ??= Float32Array.from({ length: MOST_CODE + 1 }, (_, i) =>
    decode(SPACES.rec2020.curve, i / MOST_CODE),
  ));

/**
 * Light of codes of Rec. 2020 in 16 bits, raised by their gains.
 *
 * @param headroom  EV
 * @returns light of a code, white at 1, by its gain, 255 the whole headroom
 */
export function raisedLight(headroom: number): (code: number, gain: number) => number {
  const light = lightTable();
  const boost = Float32Array.from({ length: 256 }, (_, i) => 2 ** ((headroom * i) / 255));
  return (code, gain) => (light[code]! + GAIN_OFFSET) * boost[gain]! - GAIN_OFFSET;
}
