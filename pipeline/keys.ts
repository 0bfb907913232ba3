import type { Recipe } from "./recipe/recipe";
import { edgesKey } from "./edges/step";
import { referenceOf } from "./merge/step";
import { namesOf } from "../core/frame/frame";
import { frameKey, type StackFrame } from "./work";

/**
 * Raised when the same input and settings give other pixels than before: what was kept is then made
 * anew.
 */
const ENGINE = 19;

/** What an alignment was made from, and what moved with it. */
export const alignKey = (
  used: readonly StackFrame[],
  { align, merge, prepare, kind }: Recipe,
  downscale: number,
): string =>
  JSON.stringify([
    ENGINE,
    kind,
    used.map(frameKey),
    align,
    prepare.response,
    referenceOf(used, merge),
    merge.deghost,
    merge.ghostStrength,
    downscale,
  ]);

/**
 * What a merge was made from: the content of its frames and every setting up to that step, at
 * 1/downscale of full size. Equal keys, equal bytes. Tone, finish and delivery come after it and
 * are no part of it.
 */
export const mergeKey = (used: readonly StackFrame[], recipe: Recipe, downscale: number): string =>
  JSON.stringify([
    alignKey(used, recipe, downscale),
    recipe.merge.method,
    recipe.merge.sampling,
    recipe.ghosts,
  ]);

/** What frames of a panorama were located from: their content, and how they were taken. */
export const locatedKey = (
  used: readonly StackFrame[],
  { panorama: { taken, lens, circle } }: Recipe,
): string => JSON.stringify([ENGINE, "located", used.map(frameKey), taken, lens, circle]);

/** What a panorama was joined from, at the size one works at. */
export const joinedKey = (used: readonly StackFrame[], recipe: Recipe): string =>
  JSON.stringify([
    locatedKey(used, recipe),
    used.map(namesOf),
    recipe.panorama,
    edgesKey(recipe.edges),
  ]);
