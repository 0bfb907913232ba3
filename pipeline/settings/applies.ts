import type { RecipeKind } from "../recipe/kinds";
import type { Condition } from "./fields";

/** Whether a setting has an effect in a recipe. */
export function applies(
  { kinds, settings = {} }: Condition = {},
  recipe: { kind: RecipeKind },
): boolean {
  if (kinds && !kinds.includes(recipe.kind)) return false;
  const sections = recipe as unknown as Record<string, Record<string, unknown>>;
  return Object.entries(settings).every(([name, values]) => {
    const [step, key] = name.split(".");
    return values.includes(sections[step!]![key!]);
  });
}
