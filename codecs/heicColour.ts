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
const TRANSFER_PQ = 16;
const TRANSFER_HLG = 18;

/** Light of an HLG code, 0 to 1 (ITU-R BT.2100-2, table 5). */
function hlgLight(code: number): number {
  const [a, b, c] = [0.17883277, 0.28466892, 0.55991073];
  return code <= 0.5 ? (code * code) / 3 : (Math.exp((code - c) / a) + b) / 12;
}

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
  if (transfer === TRANSFER_PQ) return { light: (code) => pqLight(code) / PEAK_NITS, said: ", PQ" };
  if (transfer === TRANSFER_HLG) return { light: hlgLight, said: ", HLG" };
  const curve = space === "rec2020" ? SPACES.rec2020.curve : SPACES.srgb.curve;
  return { light: (code) => decode(curve, code), said: "" };
}
