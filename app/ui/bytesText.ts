import { plainNumber } from "./format";

const STEP = 1000;
const UNITS = ["kB", "MB", "GB", "TB"];

/** How much room something takes, in the unit that has one to three digits before the point. */
export function bytesText(bytes: number): string {
  let value = bytes / STEP;
  let unit = 0;
  for (; value >= STEP && unit < UNITS.length - 1; unit++) value /= STEP;
  if (bytes > 0 && value < 1) return `1 ${UNITS[0]}`;
  return `${plainNumber(value, unit && value < 100 ? 1 : 0)} ${UNITS[unit]}`;
}
