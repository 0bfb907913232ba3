import { valueOf, type Recipe } from "../recipe/recipe";
import type { Condition } from "./fields";

/**
 * Whether a setting has an effect in a recipe. A setting of a step that the recipe's kind does not
 * have is none of any values.
 */
export function applies(
  { kinds, settings = {}, unless = {} }: Condition = {},
  recipe: Recipe,
): boolean {
  if (kinds && !kinds.includes(recipe.kind)) return false;
  const isOneOf = ([name, values]: [string, readonly unknown[]]): boolean =>
    values.includes(valueOf(recipe, name));
  return Object.entries(settings).every(isOneOf) && !Object.entries(unless).some(isOneOf);
}
