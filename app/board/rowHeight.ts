import * as v from "valibot";

/** How tall the rows are, and how large their pictures, px. */
export const ROW_HEIGHTS = {
  low: { text: "Low", row: 72, frame: [48, 32], result: [84, 56] },
  middle: { text: "Middle", row: 112, frame: [72, 48], result: [120, 80] },
  tall: { text: "Tall", row: 236, frame: [72, 48], result: [320, 213] },
} as const satisfies Record<
  string,
  {
    text: string;
    row: number;
    frame: readonly [number, number];
    result: readonly [number, number];
  }
>;
export type RowHeight = keyof typeof ROW_HEIGHTS;
export const ROW_HEIGHT_NAMES = Object.keys(ROW_HEIGHTS) as RowHeight[];

const KEY = "board rows";
const Stored = v.fallback(v.picklist(ROW_HEIGHT_NAMES), "middle");

/** The height that was chosen last in this browser. */
export function readRowHeight(): RowHeight {
  try {
    return v.parse(Stored, localStorage.getItem(KEY));
  } catch {
    return "middle";
  }
}

/** Keeps the height for the next visit, where the browser allows it. */
export function keepRowHeight(height: RowHeight): void {
  try {
    localStorage.setItem(KEY, height);
  } catch {
    // it is chosen again then
  }
}
