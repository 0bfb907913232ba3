/** Numbers as they are shown: a true minus, a fixed count of digits. */
export const signed = (v: number, digits = 1): string =>
  `${v > 0 ? "+" : v < 0 ? "\u2212" : ""}${Math.abs(v).toFixed(digits).replace(/\.0$/, "")}`;
export const plainNumber = (v: number, digits = 1): string =>
  v
    .toFixed(digits)
    .replace(/^-(0\.?0*)$/, "$1")
    .replace("-", "\u2212");
export const shutter = (s: number | undefined): string =>
  s === undefined ? "no time" : s < 0.4 ? `1/${Math.round(1 / s)} s` : `${Number(s.toFixed(1))} s`;
export const clock = (t: number): string => new Date(t * 1000).toISOString().slice(11, 16);
