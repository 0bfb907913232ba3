import type { RecipeKind } from "../recipe/kinds";
import type { Condition } from "./fields";

/** Whether a setting has an effect in a recipe. */
export function applies(
  { kinds, settings = {}, unless = {} }: Condition = {},
  recipe: { kind: RecipeKind },
): boolean {
  if (kinds && !kinds.includes(recipe.kind)) return false;
  const sections = recipe as unknown as Record<string, Record<string, unknown>>;
  const isOneOf = ([name, values]: [string, readonly unknown[]]): boolean => {
    const [step, key] = name.split(".");
    return values.includes(sections[step!]![key!]);
  };
  return Object.entries(settings).every(isOneOf) && !Object.entries(unless).some(isOneOf);
}
