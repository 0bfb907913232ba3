import * as v from "valibot";
import { RecipeSchema, type Recipe } from "../../pipeline/recipe/recipe";

const UnsavedSchema = v.object({
  /** the stored recipe that was changed, as JSON */
  base: v.string(),
  recipe: RecipeSchema,
});

const keyOf = (takeId: string): string => `unsaved ${takeId}`;

/**
 * Notes a change that is on screen but not in the database yet. A page that goes away has no time
 * for a transaction, but it has for this.
 */
export function noteUnsaved(takeId: string, stored: Recipe, recipe: Recipe): void {
  try {
    localStorage.setItem(keyOf(takeId), JSON.stringify({ base: JSON.stringify(stored), recipe }));
  } catch {
    // nothing can be kept where the browser allows no storage at all
  }
}

/**
 * The change of a take that was noted as its page went away, once: undefined if there is none, if
 * it was stored after all, or if the take was changed in another way since.
 */
export function recoverUnsaved(takeId: string, stored: Recipe): Recipe | undefined {
  let value: unknown;
  try {
    const text = localStorage.getItem(keyOf(takeId));
    localStorage.removeItem(keyOf(takeId));
    value = JSON.parse(text ?? "null");
  } catch {
    return undefined;
  }
  const read = v.safeParse(UnsavedSchema, value);
  const current = JSON.stringify(stored);
  if (!read.success || read.output.base !== current) return undefined;
  return JSON.stringify(read.output.recipe) === current ? undefined : read.output.recipe;
}
