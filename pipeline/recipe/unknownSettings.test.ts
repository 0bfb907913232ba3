import { defaultRecipe } from "./recipe";
import { KINDS } from "./kinds";
import { unknownSettings } from "./unknownSettings";

test.each(KINDS)("the recipe of a %s has no unknown setting", (kind) => {
  expect(unknownSettings(defaultRecipe(kind))).toEqual([]);
});

test("sections and settings that nobody knows are named", () => {
  const recipe = defaultRecipe("bracket");
  const odd = {
    ...recipe,
    polish: { repairs: [] },
    sparkle: 3,
    tone: { ...recipe.tone, glow: 1 },
  };
  expect(unknownSettings(odd)).toEqual(["tone.glow", "polish.repairs", "sparkle"]);
});

test("a step of another kind is named, but in older recipes, which all had every step", () => {
  const { ghosts } = defaultRecipe("bracket");
  const panorama = { ...defaultRecipe("panorama"), ghosts };
  expect(unknownSettings(panorama)).toEqual(["ghosts.patches"]);
  expect(unknownSettings({ ...panorama, version: 20 })).toEqual([]);
});

test("an adjustment that nobody knows is named within its group", () => {
  const recipe = defaultRecipe("bracket");
  const finish = { ...recipe.finish, whole: { ...recipe.finish.whole, sparkle: 1 }, more: 2 };
  expect(unknownSettings({ ...recipe, finish })).toEqual(["finish.whole.sparkle", "finish.more"]);
});

test.each([null, 7, "tone", []])("what is no recipe has none: %j", (data) => {
  expect(unknownSettings(data)).toEqual([]);
});
