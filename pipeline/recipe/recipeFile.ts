import { RhizomeError } from "../../core/error";
import type { StackFrame } from "../work";
import { parseRecipe, type Recipe } from "./recipe";
import { unknownSettings } from "./unknownSettings";

/** What recipes beside results end in. */
export const RECIPE_ENDING = ".rhizome.json";

/** A frame as a recipe's file names it. */
interface NamedFrame {
  /** by which the recipe knows it */
  id: string;
  name: string;
  /** hash of its bytes */
  content: string;
}
type Frame = Pick<StackFrame, "id" | "content" | "source">;

/** A recipe from a file, and the frames that it was made for, where the file says so. */
export interface RecipeOfFile {
  recipe: Recipe;
  frames: NamedFrame[];
}

const named = ({ id, content, source }: Frame): NamedFrame => ({ id, name: source.name, content });

/** A recipe as the text of a file, with the frames that it is for. */
export const recipeText = (recipe: Recipe, frames: readonly Frame[]): string =>
  `${JSON.stringify({ ...recipe, madeFrom: frames.map(named) }, null, 2)}\n`;

const invalid = (file: string, what: string): RhizomeError =>
  new RhizomeError("recipe-invalid", `${file} ${what}.`, "write it as `rhizome recipe` does");

const isNamedFrame = (frame: unknown): frame is NamedFrame =>
  typeof frame === "object" &&
  frame !== null &&
  ["id", "name", "content"].every(
    (key) => typeof (frame as Record<string, unknown>)[key] === "string",
  );

/**
 * Reads a recipe from the text of a file.
 *
 * @param file  its name, for errors
 * @throws RhizomeError `recipe-invalid`, or `setting-unknown` naming what nobody knows
 */
export function readRecipeText(text: string, file: string): RecipeOfFile {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw invalid(file, "is no JSON");
  }
  const { madeFrom = [], ...recipe } = (data ?? {}) as Record<string, unknown>;
  if (!Array.isArray(madeFrom) || !madeFrom.every(isNamedFrame))
    throw invalid(file, "does not say which frames it was made from");
  const unknown = unknownSettings(recipe);
  if (unknown.length)
    throw new RhizomeError(
      "setting-unknown",
      `${file} has settings that are not known: ${unknown.join(", ")}.`,
      "remove them, or see `rhizome recipe bracket` for those that are",
    );
  return { recipe: parseRecipe(recipe), frames: madeFrom };
}

/**
 * A recipe of a file for a stack: what it says of frames is said of the stack's own, which are
 * known by what they hold, or else by their names. Frames that the stack has not stay as they were.
 */
export function recipeFor({ recipe, frames }: RecipeOfFile, stack: readonly Frame[]): Recipe {
  const own = new Map<string, string>();
  for (const { id, name, content } of frames) {
    const found =
      stack.find((frame) => frame.content === content) ??
      stack.find((frame) => frame.source.name === name);
    if (found) own.set(id, found.id);
  }
  return parseRecipe(renamed(recipe, own));
}

/** Data in which every text that is an old name is the new one. */
function renamed(data: unknown, names: ReadonlyMap<string, string>): unknown {
  if (typeof data === "string") return names.get(data) ?? data;
  if (Array.isArray(data)) return data.map((item) => renamed(item, names));
  if (typeof data !== "object" || data === null) return data;
  return Object.fromEntries(
    Object.entries(data).map(([key, value]) => [key, renamed(value, names)]),
  );
}
