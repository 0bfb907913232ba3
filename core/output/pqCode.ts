import type { Heap } from "../../kernels/heap";
import { MOST_CODE, raisedLight, WHITE_NITS } from "./raised";

/** Constants of the curve (SMPTE ST 2084:2014). */
const M1 = 2610 / 16384;
const M2 = (2523 / 4096) * 128;
const C1 = 3424 / 4096;
const C2 = (2413 / 4096) * 32;
const C3 = (2392 / 4096) * 32;
/** The brightest that the curve tells, cd/m². */
export const PEAK_NITS = 10000;

/** The code of a brightness in cd/m², 0 to 1 (SMPTE ST 2084:2014). */
export function pqOf(nits: number): number {
  const power = Math.max(0, nits / PEAK_NITS) ** M1;
  return ((C1 + C2 * power) / (1 + C3 * power)) ** M2;
}

/** The brightness of a code, cd/m². */
export function pqLight(code: number): number {
  const root = Math.max(0, code) ** (1 / M2);
  return PEAK_NITS * (Math.max(0, root - C1) / (C2 - C3 * root)) ** (1 / M1);
}

/** Steps of the table of codes, over the fourth root of light, in which they are nearly straight. */
const STEPS = 8192;
let codes: Float32Array | undefined;

const codeTable = (): Float32Array =>
  (codes ??= Float32Array.from(
    { length: STEPS + 2 },
    (_, i) => MOST_CODE * pqOf(PEAK_NITS * (i / STEPS) ** 4),
  ));

/**
 * Pixels of a picture, Rec. 2020 in 16 bits, in place to what displays are told by brightness: their
 * light, brighter by their gains, in the code of ST 2084.
 *
 * @param pixels    address of R, G and B, interleaved
 * @param gains     address of the gains, a byte each, 255 the whole headroom
 * @param headroom  EV
 * @param count     of pixels
 */
export function codeAsPq(
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
  for (let i = 0; i < count; i++) {
    for (let k = 3 * i; k < 3 * i + 3; k++) {
      const light = white * raised(samples[k]!, gain[i]!);
      const at = STEPS * Math.sqrt(Math.sqrt(Math.min(1, Math.max(0, light))));
      const below = Math.floor(at);
      const start = code[below]!;
      samples[k] = Math.round(start + (at - below) * (code[below + 1]! - start));
    }
  }
}
