import { defaultRecipe } from "./recipe";
import { readRecipeText, recipeFor, recipeText } from "./recipeFile";

const frame = (id: string, name: string, content: string) => ({
  id,
  content,
  source: { name, path: `/frames/${name}` },
});
const made = [frame("1", "a.jpg", "aa"), frame("2", "b.jpg", "bb"), frame("3", "c.jpg", "cc")];
const bracket = defaultRecipe("bracket");
const recipe = { ...bracket, frames: { ...bracket.frames, leftOut: ["2"] } };

test("a recipe comes back as it went into its file", () => {
  const { recipe: back, frames } = readRecipeText(recipeText(recipe, made), "x");
  expect(back).toEqual(recipe);
  expect(recipeFor({ recipe: back, frames }, made)).toEqual(recipe);
});

test.each([
  ["by what they hold", [frame("7", "other.jpg", "bb"), frame("8", "b.jpg", "zz")], "7"],
  ["else by their names", [frame("7", "other.jpg", "yy"), frame("8", "b.jpg", "zz")], "8"],
  ["or stay as they were", [frame("7", "other.jpg", "yy")], "2"],
])("frames of another stack are known %s", (_, stack, expected) => {
  const read = readRecipeText(recipeText(recipe, made), "x");
  expect(recipeFor(read, stack).frames.leftOut).toEqual([expected]);
});

test.each([
  ["{", "recipe-invalid"],
  ["null", "recipe-invalid"],
  ['{"version":1}', "recipe-invalid"],
  [JSON.stringify({ ...recipe, madeFrom: 3 }), "recipe-invalid"],
  [JSON.stringify({ ...recipe, madeFrom: [{ id: 1 }] }), "recipe-invalid"],
  [JSON.stringify({ ...recipe, tone: { ...recipe.tone, sparkle: 1 } }), "setting-unknown"],
])("%s is refused, by the file's name or the setting's", (text, code) => {
  expect(() => readRecipeText(text, "x.json")).toThrow(expect.objectContaining({ code }));
});
