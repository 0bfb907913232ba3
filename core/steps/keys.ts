import type { Recipe } from "../recipe/recipe";
import { referenceOf } from "./merge/step";
import type { StackFrame } from "./work";

/** Raised when the same input and settings give other pixels than before: what was kept is then made anew. */
const ENGINE = 1;

/**
 * What a merge was made from: the content of its frames and every setting up to that step, at 1/shrink of full size.
 * Equal keys, equal bytes. Tone, finish and delivery come after it and are no part of it.
 */
export const mergeKey = (used: readonly StackFrame[], recipe: Recipe, shrink: number): string =>
  JSON.stringify([ENGINE, recipe.kind, used.map((f) => f.content), recipe.align, { ...recipe.merge, reference: referenceOf(used, recipe.merge) }, shrink]);
