import {
  REST,
  type Adjustments,
  type CurvePoint,
  type HueRange,
} from "../../core/finish/adjustments";
import { monotoneCurve } from "../../core/finish/curve";
import { clamp } from "../../core/math/clamp";
import { ADJUSTMENT_FIELDS } from "../finish/adjustmentFields";
import type { KeptPart } from "../finish/partSchema";
import type { Recipe } from "../recipe/recipe";
import { STEPS } from "../registry";
import { MOST_AMOUNT, type Look } from "./look";

type Key = keyof Adjustments;

/** How an adjustment follows the amount of a look. */
const WAYS: {
  [K in Key]?: (own: Adjustments[K], look: Adjustments[K], amount: number) => Adjustments[K];
} = {
  temperature: (own, look, amount) => 1 / mixed(1 / own, 1 / look, amount),
  curve: mixedCurve,
  curveRed: mixedCurve,
  curveGreen: mixedCurve,
  curveBlue: mixedCurve,
  hues: mixedHues,
};

/** What says how or where, and not how much: taken as the look has it. */
const AS_THE_LOOK_HAS: readonly Key[] = [
  "pivot",
  "slopeDirection",
  "darksHue",
  "middleHue",
  "lightsHue",
  "sharpeningRadius",
  "sharpeningEdges",
  "glowThreshold",
  "glowRadius",
  "vignetteX",
  "vignetteY",
  "vignetteSize",
  "vignetteRoundness",
  "vignetteFeather",
  "fringeReach",
];

/** Parts that came with a look: another look takes their place. */
const PART_OF_LOOK = "look ";

const mixed = (own: number, look: number, amount: number): number => own + (look - own) * amount;
const mixedEach = (own: readonly number[], look: readonly number[], amount: number): number[] =>
  look.map((value, i) => mixed(own[i] ?? 0, value, amount));

/** A curve between two, at the points of the look's. */
function mixedCurve(
  own: readonly CurvePoint[],
  look: readonly CurvePoint[],
  amount: number,
): CurvePoint[] {
  const from = monotoneCurve(own);
  const to = monotoneCurve(look);
  const xs = [...new Set([...own, ...look].map(([x]) => x))].sort((a, b) => a - b).slice(0, 16);
  let least = 0;
  return xs.map((x): CurvePoint => {
    // what is lighter stays lighter
    least = Math.max(least, clamp(mixed(from(x), to(x), amount), 0, 1));
    return [x, least];
  });
}

/** The look's ranges of hue, turned and changed by so much; the picture's own give way to them. */
function mixedHues(
  own: readonly HueRange[],
  look: readonly HueRange[],
  amount: number,
): HueRange[] {
  const given = own.map((range) => ({
    ...range,
    turn: range.turn * Math.max(0, 1 - amount),
    saturation: range.saturation * Math.max(0, 1 - amount),
    lightness: range.lightness * Math.max(0, 1 - amount),
  }));
  const taken = look.map((range) => ({
    ...range,
    turn: clamp(range.turn * amount, -60, 60),
    saturation: clamp(range.saturation * amount, -1, 1),
    lightness: clamp(range.lightness * amount, -1, 1),
  }));
  return [...(amount < 1 ? given : []), ...taken];
}

/** A value between the picture's own and the look's, or beyond, within what is allowed. */
function mixedValue(key: Key, own: unknown, look: unknown, amount: number): unknown {
  const way = WAYS[key] as ((o: unknown, l: unknown, a: number) => unknown) | undefined;
  const field = ADJUSTMENT_FIELDS[key];
  if (way) {
    const value = way(own, look, amount);
    return field.type === "number" ? clamp(value as number, field.min, field.max) : value;
  }
  if (AS_THE_LOOK_HAS.includes(key)) return look;
  if (field.type === "number")
    return clamp(mixed(own as number, look as number, amount), field.min, field.max);
  const [least, most] = key === "zones" ? [-4, 4] : [-1, 1];
  return mixedEach(own as number[], look as number[], amount).map((value) =>
    clamp(value, least, most),
  );
}

/** Adjustments with those of a look, so far. */
function mixedAdjustments<A extends Partial<Adjustments>>(
  own: A,
  look: Look["finish"],
  amount: number,
): A {
  const entries = Object.entries(look)
    .filter(([, value]) => value !== undefined)
    .map(([key, value]) => {
      const was = own[key as Key] ?? REST[key as Key];
      return [key, mixedValue(key as Key, was, value, amount)];
    });
  return { ...own, ...Object.fromEntries(entries) } as A;
}

/** A part of a look, so far: up to its own amount by how much it counts, beyond it by what it does. */
function partOfLook(part: KeptPart, index: number, look: Look, amount: number): KeptPart {
  const beyond = Math.max(1, amount);
  return {
    ...part,
    id: `${PART_OF_LOOK}${index} ${look.name}`.slice(0, 60),
    amount: part.amount * Math.min(1, amount),
    adjustments: mixedAdjustments({}, part.adjustments as Look["finish"], beyond),
  };
}

function mixedTone(own: Recipe["tone"], look: Look["tone"], amount: number): Recipe["tone"] {
  const { fields } = STEPS.tone.settings;
  const number = (key: "strength" | "detail" | "white" | "black"): number => {
    const to = look[key];
    const field = fields[key];
    return to === undefined ? own[key] : clamp(mixed(own[key], to, amount), field.min, field.max);
  };
  return {
    ...own,
    strength: number("strength"),
    detail: number("detail"),
    white: number("white"),
    black: number("black"),
    lifts: look.lifts
      ? mixedEach(own.lifts, look.lifts, amount).map((lift) => clamp(lift, -4, 4))
      : own.lifts,
  };
}

/**
 * A recipe with a look over it: every setting of the look on its way from the recipe's own (0) to the
 * look's (1) and beyond (1.5), within what the setting allows; colour temperatures by equal steps to
 * the eye, curves point by point, hues by what is done to them. Nothing else of the recipe changes.
 */
export function applyLook(recipe: Recipe, look: Look, amount: number): Recipe {
  const far = clamp(amount, 0, MOST_AMOUNT);
  if (far === 0) return recipe;
  const own = recipe.finish.parts.filter(({ id }) => !id.startsWith(PART_OF_LOOK));
  const parts = look.parts.map((part, i) => partOfLook(part, i, look, far));
  return {
    ...recipe,
    tone: mixedTone(recipe.tone, look.tone, far),
    finish: {
      ...recipe.finish,
      whole: mixedAdjustments(recipe.finish.whole, look.finish, far),
      parts: [...own, ...parts],
    },
  };
}
