import type { Recipe } from "../recipe/recipe";
import { referenceOf } from "./merge/step";
import { frameKey, type StackFrame } from "./work";

/** Raised when the same input and settings give other pixels than before: what was kept is then made anew. */
const ENGINE = 17;

/** What an alignment was made from, and what moved with it. */
export const alignKey = (used: readonly StackFrame[], { align, merge, prepare, kind }: Recipe, shrink: number): string =>
  JSON.stringify([ENGINE, kind, used.map(frameKey), align, prepare.response, referenceOf(used, merge), merge.deghost, merge.ghostStrength, shrink]);

/**
 * What a merge was made from: the content of its frames and every setting up to that step, at 1/shrink of full size.
 * Equal keys, equal bytes. Tone, finish and delivery come after it and are no part of it.
 */
export const mergeKey = (used: readonly StackFrame[], recipe: Recipe, shrink: number): string =>
  JSON.stringify([alignKey(used, recipe, shrink), recipe.merge.method, recipe.merge.sampling, recipe.ghosts]);
