import type { PanoramaRecipe, Recipe } from "./recipe/recipe";
import { namesOf } from "../core/frame/frame";
import { KIND_STEPS } from "./kindSteps";
import { STEPS, type StepName } from "./registry";
import { frameKey, type StackFrame } from "./work";

/**
 * Raised when the same input and settings give other pixels than before: what was kept is then made
 * anew.
 */
export const ENGINE = 22;

const keysOf = (steps: readonly StepName[], recipe: Recipe): unknown[] =>
  steps.map((step) => STEPS[step].key(recipe as never));

/** What the places of the frames were found from, on frames at 1/downscale of their size. */
export const placesKey = (used: readonly StackFrame[], recipe: Recipe, downscale: number): string =>
  JSON.stringify([
    ENGINE,
    recipe.kind,
    used.map((f) => [frameKey(f), ...namesSaid(f, recipe)]),
    keysOf(KIND_STEPS[recipe.kind].places, recipe),
    downscale,
  ]);

/** The names of a frame that settings call it by. */
const namesSaid = (f: StackFrame, { kind }: Recipe): readonly string[] =>
  kind === "panorama" ? namesOf(f) : [];

/**
 * What a merge was made from: the content of its frames and every setting up to that step, at
 * 1/downscale of full size. Equal keys, equal bytes. Tone, finish and delivery come after it and
 * are no part of it.
 */
export const sceneKey = (used: readonly StackFrame[], recipe: Recipe, downscale: number): string =>
  JSON.stringify([
    placesKey(used, recipe, downscale),
    keysOf(KIND_STEPS[recipe.kind].merge, recipe),
  ]);

/** What frames of a panorama were located from: their content, and how they were taken. */
export const locatedKey = (
  used: readonly StackFrame[],
  { panorama: { taken, lens, circle } }: PanoramaRecipe,
): string => JSON.stringify([ENGINE, "located", used.map(frameKey), taken, lens, circle]);
