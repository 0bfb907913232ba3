import { REST, type Adjustments } from "../../core/finish/adjustments";
import { ADJUSTMENT_GROUPS, ADJUSTMENT_GROUP_NAMES } from "../finish/adjustmentFields";
import { defaultRecipe, type Recipe } from "../recipe/recipe";
import { fitsLook, LOOK_FORMAT, LOOK_VERSION, type Look } from "./look";

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** What of the whole picture's adjustments is set, and not switched off. */
function setAdjustments({ finish }: Recipe): Look["finish"] {
  const keys = ADJUSTMENT_GROUP_NAMES.filter((group) => !finish.off.includes(group)).flatMap(
    (group) => Object.keys(ADJUSTMENT_GROUPS[group].fields) as (keyof Adjustments)[],
  );
  const set = keys.filter((key) => !isSame(finish.whole[key], REST[key]));
  return Object.fromEntries(set.map((key) => [key, finish.whole[key]])) as Look["finish"];
}

/**
 * A look of what a recipe does to tone and finish. Exposure stays with its picture, and so do parts
 * that were drawn.
 */
export function makeLook(recipe: Recipe, name: string, note = ""): Look {
  const { strength, detail, lifts, white, black } = recipe.tone;
  const usual = defaultRecipe(recipe.kind).tone;
  const tone = Object.fromEntries(
    Object.entries({ strength, detail, lifts, white, black }).filter(
      ([key, value]) => !isSame(value, usual[key as keyof typeof usual]),
    ),
  );
  return {
    format: LOOK_FORMAT,
    version: LOOK_VERSION,
    name,
    note,
    tone,
    finish: setAdjustments(recipe),
    parts: recipe.finish.parts.filter((part) => part.on && fitsLook(part)),
  };
}

/** How much a look sets, in words. */
export function looksSaid({ tone, finish, parts }: Look): string {
  const settings = [...Object.values(tone), ...Object.values(finish)].filter(
    (value) => value !== undefined,
  ).length;
  const said = `${settings} ${settings === 1 ? "setting" : "settings"}`;
  if (!parts.length) return said;
  return `${said}, ${parts.length} ${parts.length === 1 ? "part" : "parts"}`;
}
