import * as v from "valibot";

/** Width of the column of decisions, px: as it begins, and what it can be dragged to. */
export const COLUMN = { usual: 320, least: 280, most: 560 } as const;
const KEY = "decisions width";
const Stored = v.fallback(
  v.pipe(
    v.string(),
    v.transform(Number),
    v.number(),
    v.minValue(COLUMN.least),
    v.maxValue(COLUMN.most),
  ),
  COLUMN.usual,
);

/** The width that was chosen last in this browser, px. */
export function readColumnWidth(): number {
  try {
    return v.parse(Stored, localStorage.getItem(KEY));
  } catch {
    return COLUMN.usual;
  }
}

/** Keeps the width for the next visit, where the browser allows it. */
export function keepColumnWidth(px: number): void {
  try {
    localStorage.setItem(KEY, String(px));
  } catch {
    // it is chosen again then
  }
}
