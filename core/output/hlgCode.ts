import type { Heap } from "../../kernels/heap";
import { luminance } from "../colour/luminance";
import { clamp } from "../math/clamp";
import { MOST_CODE, raisedLight, WHITE_NITS } from "./raised";

/** Constants of the curve (ITU-R BT.2100-2, table 5). */
const A = 0.17883277;
const B = 0.28466892;
const C = 0.55991073;
/** The brightest of the display that is coded for, cd/m² (ITU-R BT.2100-2, note 5e). */
const PEAK_NITS = 1000;
/** How a display of that brightness bends luminance. */
const SYSTEM_GAMMA = 1.2;

/** How far the code goes beyond white, EV. */
export const HLG_HEADROOM = Math.log2(PEAK_NITS / WHITE_NITS);

/** The code of scene light, both 0 to 1 (ITU-R BT.2100-2, table 5). */
export const hlgOf = (light: number): number =>
  light <= 1 / 12 ? Math.sqrt(3 * light) : A * Math.log(12 * light - B) + C;

/** Scene light of a code. */
export const hlgLight = (code: number): number =>
  code <= 0.5 ? (code * code) / 3 : (Math.exp((code - C) / A) + B) / 12;

const STEPS = 8192;
let codes: Float32Array | undefined;
/** Codes over the square root of light, of which the dark half of the curve is a straight line. */
const codeTable = (): Float32Array =>
  (codes ??= Float32Array.from(
    { length: STEPS + 2 },
    (_, i) => MOST_CODE * hlgOf(Math.min(1, (i / STEPS) ** 2)),
  ));

/**
 * Pixels of a picture, Rec. 2020 in 16 bits, in place to hybrid log-gamma: the scene light by which
 * a display of 1000 cd/m² shows their light, brighter by their gains. What is brighter than that
 * display is at its peak.
 *
 * @param pixels    address of R, G and B, interleaved
 * @param gains     address of the gains, a byte each, 255 the whole headroom
 * @param headroom  EV
 * @param count     of pixels
 */
export function codeAsHlg(
  heap: Heap,
  pixels: number,
  gains: number,
  headroom: number,
  count: number,
): void {
  const samples = heap.u16(pixels, count * 3);
  const gain = heap.u8(gains, count);
  const raised = raisedLight(headroom);
  const code = codeTable();
  const white = WHITE_NITS / PEAK_NITS;
  const codeOf = (light: number): number => {
    const at = STEPS * Math.sqrt(clamp(light, 0, 1));
    const below = Math.floor(at);
    return Math.round(code[below]! + (at - below) * (code[below + 1]! - code[below]!));
  };
  for (let i = 0; i < count; i++) {
    const at = 3 * i;
    const red = white * raised(samples[at]!, gain[i]!);
    const green = white * raised(samples[at + 1]!, gain[i]!);
    const blue = white * raised(samples[at + 2]!, gain[i]!);
    const shown = luminance(red, green, blue);
    const toScene = shown > 0 ? shown ** (1 / SYSTEM_GAMMA - 1) : 0;
    samples[at] = codeOf(red * toScene);
    samples[at + 1] = codeOf(green * toScene);
    samples[at + 2] = codeOf(blue * toScene);
  }
}
