import * as v from "valibot";

/** Width of a bank card, mm (ISO/IEC 7810, ID-1). */
export const CARD_MM = { width: 85.6, height: 53.98 };
/** What browsers take a screen to have, px a mm, before it was held against something. */
const SUPPOSED = 96 / 25.4;
export const FEWEST = 1.5;
export const MOST = 16;

const KEY = "screen px per mm";
const ScaleSchema = v.pipe(v.number(), v.minValue(FEWEST), v.maxValue(MOST));

/** How many CSS px of this screen are a millimetre, and whether that was measured. */
export function readScreenScale(): { pxPerMm: number; isMeasured: boolean } {
  const kept = v.safeParse(ScaleSchema, Number(localStorage.getItem(KEY) ?? Number.NaN));
  return kept.success
    ? { pxPerMm: kept.output, isMeasured: true }
    : { pxPerMm: SUPPOSED, isMeasured: false };
}

/** Keeps what was measured on this screen. */
export function keepScreenScale(pxPerMm: number): void {
  try {
    localStorage.setItem(KEY, String(pxPerMm));
  } catch {
    // it is measured again then
  }
}
