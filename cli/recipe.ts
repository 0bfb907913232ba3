import { out } from "./arguments";
import { defaultRecipe } from "../pipeline/recipe/recipe";

export async function recipe(args: string[]): Promise<void> {
  out(JSON.stringify(defaultRecipe(args[0] ?? ""), null, 2));
}
