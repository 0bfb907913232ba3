import { out } from "./arguments";
import { defaultRecipe } from "../core/recipe/recipe";

export async function recipe(args: string[]): Promise<void> {
  out(JSON.stringify(defaultRecipe(args[0] ?? ""), null, 2));
}
