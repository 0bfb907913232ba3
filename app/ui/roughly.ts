import { plainNumber } from "./format";

/** So long, as one says it: to the second, and to half a minute where it is long. */
export function roughly(ms: number): [value: string, unit: string] {
  const s = ms / 1000;
  if (s < 1.5) return ["1", "s"];
  if (s < 90) return [String(s < 20 ? Math.round(s) : Math.round(s / 5) * 5), "s"];
  return [plainNumber(Math.round(s / 30) / 2, s < 600 ? 1 : 0).replace(/\.0$/, ""), "min"];
}
