import { DISPLAY_CODE } from "../core/output/displayCode";
import { hlgLight } from "../core/output/hlgCode";
import { PEAK_NITS, pqLight } from "../core/output/pqCode";
import { decode, SPACES, type SpaceId } from "../core/colour/spaces";
import { colourOfSpace, type InputColour } from "./icc";

/** Colour as a file's codes tell it (ITU-T H.273). */
export interface ColourCodes {
  primaries: number;
  transfer: number;
}

/** Primaries of H.273 that cameras write. */
const PRIMARIES: Readonly<Record<number, SpaceId>> = { 1: "srgb", 9: "rec2020", 12: "p3" };

/** What a file's codes say of its colour; what they do not say is as in sRGB. */
export function colourOfCodes(codes: ColourCodes | undefined): InputColour {
  const space = PRIMARIES[codes?.primaries ?? 1] ?? "srgb";
  const curve = curveOf(codes?.transfer, space);
  return {
    name: `${SPACES[space].name}${curve.said}`,
    curves: [curve.light, curve.light, curve.light],
    matrix: colourOfSpace(space).matrix,
  };
}

function curveOf(
  transfer: number | undefined,
  space: SpaceId,
): { light: (code: number) => number; said: string } {
  if (transfer === DISPLAY_CODE.pq.transfer)
    return { light: (code) => pqLight(code) / PEAK_NITS, said: ", PQ" };
  if (transfer === DISPLAY_CODE.hlg.transfer) return { light: hlgLight, said: ", HLG" };
  const curve = space === "rec2020" ? SPACES.rec2020.curve : SPACES.srgb.curve;
  return { light: (code) => decode(curve, code), said: "" };
}
