import { defaultRecipe } from "../../core/recipe/recipe";
import { labelOf, nameOf, preparedAs } from "./arrange";
import type { Frame } from "./records";

const frame = (name: string, label?: string): Frame => ({ id: name, shootId: "s", hash: name, size: 1, info: { name, format: "jpeg", width: 3, height: 2, depth: 8, profile: "sRGB assumed", exif: label === undefined ? {} : { label } } });

test("a stack takes the label its frames came with, however it is written, and no word of another program's", () => {
  expect(labelOf([frame("a"), frame("b", "Keep")])).toBe("keep");
  expect(labelOf([frame("a", "Purple"), frame("b", "none")])).toBe("none");
  expect(labelOf([])).toBe("none");
});

test("a stack is named after its first and last file", () => {
  expect(nameOf([frame("QM_0412.jpg"), frame("QM_0413.jpg"), frame("QM_0416.jpg")])).toBe("QM_0412 to 0416");
  expect(nameOf([frame("roof.tif")])).toBe("roof");
  expect(nameOf([])).toBe("");
});

test("a new stack is prepared as its shoot is, without what was drawn on one view; what does not fit is left", () => {
  const recipe = defaultRecipe("focus"), light = { id: "l", on: true, shape: "brush", points: [[0.5, 0.5]], radius: 0.1, soft: 0, temperature: 3000, tint: 0 };
  expect(preparedAs(recipe, undefined)).toEqual(recipe);
  expect(preparedAs(recipe, { temperature: 4200, vignetting: 0.3, local: [light] })).toEqual({ ...recipe, prepare: { ...recipe.prepare, temperature: 4200, vignetting: 0.3 } });
  expect(preparedAs(recipe, { temperature: "warm" })).toEqual(recipe);
});
