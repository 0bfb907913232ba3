/** Numbers as they are shown: a true minus, a fixed count of digits. */
const SIGNS = ["\u2212", "", "+"] as const;
export const signed = (v: number, digits = 1): string =>
  SIGNS[Math.sign(v) + 1] + Math.abs(v).toFixed(digits).replace(/\.0$/, "");
export const plainNumber = (v: number, digits = 1): string =>
  v
    .toFixed(digits)
    .replace(/^-(0\.?0*)$/, "$1")
    .replace("-", "\u2212");
export const shutter = (s: number | undefined): string => {
  if (s === undefined) return "no time";
  if (s < 0.4) return `1/${Math.round(1 / s)} s`;
  return `${Number(s.toFixed(1))} s`;
};
export const clock = (t: number): string => new Date(t * 1000).toISOString().slice(11, 16);
export { counted } from "../../core/counted";
