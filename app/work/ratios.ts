import * as v from "valibot";
import { clamp } from "../../core/math/clamp";
import { median } from "../../core/math/median";

/** So many of the last measurements of a kind count. */
const REMEMBERED = 5;
const [LEAST, MOST] = [0.01, 100];

const RatiosSchema = v.record(
  v.string(),
  v.pipe(v.array(v.pipe(v.number(), v.minValue(LEAST), v.maxValue(MOST))), v.maxLength(REMEMBERED)),
);
/** What was measured over what a model had foretold, the last few of each kind. */
export type Ratios = v.InferOutput<typeof RatiosSchema>;

/** By how much a model is off: by what like things were, before the first of them by any others. */
export const usualRatio = (ratios: Ratios, kind: string): number =>
  median(ratios[kind] ?? []) || median(Object.values(ratios).flat()) || 1;

/** The ratios with one more. */
export const withRatio = (ratios: Ratios, kind: string, ratio: number): Ratios => ({
  ...ratios,
  [kind]: [...(ratios[kind] ?? []), clamp(ratio, LEAST, MOST)].slice(-REMEMBERED),
});

/** What is kept on this machine under a name; nothing where it cannot be read. */
export function readRatios(name: string): Ratios {
  try {
    const kept = v.safeParse(RatiosSchema, JSON.parse(localStorage.getItem(name) ?? "{}"));
    return kept.success ? kept.output : {};
  } catch {
    return {};
  }
}

/** Keeps ratios under a name; a full or closed storage keeps nothing. */
export function keepRatios(name: string, ratios: Ratios): void {
  try {
    localStorage.setItem(name, JSON.stringify(ratios));
  } catch {
    /* a guess is not worth a message */
  }
}
