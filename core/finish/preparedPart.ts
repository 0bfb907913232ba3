import type { Heap } from "../../kernels/heap";
import { whiteBalanceGains } from "../colour/whiteBalance";
import type { Adjustments } from "./adjustments";
import { curveTable } from "./curve";
import { hasColour, hasCurves, type FinishedPart } from "./finish";
import { chromaFactor, hueTable } from "./hueTable";
import { LMS_TO_WORKING, WORKING_TO_LMS } from "./oklab";

/** Chroma of a tint at full strength. */
const STRONGEST_TINT = 0.09;

/** A part with all that its rows need of it, and where its mask of the row is. */
export interface PreparedPart extends FinishedPart {
  /** address of the row of the mask times the amount */
  row: number;
  gains: readonly [number, number, number] | undefined;
  curves: readonly number[] | undefined;
  colours: { constants: number; hues: number } | undefined;
}

/** What of a part is the same for every row. */
export function preparePart(heap: Heap, part: FinishedPart, row: number): PreparedPart {
  const set = part.adjustments;
  const gains = whiteBalanceGains(set);
  const isWhite = gains.every((gain) => Math.abs(gain - 1) < 1e-9);
  return {
    ...part,
    row,
    gains: isWhite ? undefined : gains,
    curves: hasCurves(set)
      ? [set.curve, set.curveRed, set.curveGreen, set.curveBlue].map((points) => {
          const table = curveTable(points);
          return table ? heap.put(table) : 0;
        })
      : undefined,
    colours: hasColour(set)
      ? { constants: heap.put(colourConstants(set)), hues: heap.put(hueTable(set)) }
      : undefined,
  };
}

/** What `colourRow` takes of a part. */
function colourConstants(set: Adjustments): number[] {
  const tint = (hue: number, strength: number): number[] => {
    const angle = (hue * Math.PI) / 180;
    const size = strength * STRONGEST_TINT;
    return [size * Math.cos(angle), size * Math.sin(angle)];
  };
  return [
    ...WORKING_TO_LMS,
    ...LMS_TO_WORKING,
    chromaFactor(set.saturation),
    set.dullColours,
    set.monochrome,
    ...tint(set.darksHue, set.darksTint),
    ...tint(set.middleHue, set.middleTint),
    ...tint(set.lightsHue, set.lightsTint),
  ];
}
