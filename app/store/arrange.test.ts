import { defaultRecipe } from "../../pipeline/recipe/recipe";
import { carriedOn, labelOf, nameOf, preparedAs } from "./arrange";
import type { Frame, Stack } from "./records";

const frame = (name: string, label?: string): Frame => ({
  id: name,
  shootId: "s",
  hash: name,
  size: 1,
  info: {
    name,
    format: "jpeg",
    width: 3,
    height: 2,
    depth: 8,
    profile: "sRGB assumed",
    exif: label === undefined ? {} : { label },
  },
});

test("a stack takes the label its frames came with, however it is written, and no word of another program's", () => {
  expect(labelOf([frame("a"), frame("b", "Keep")])).toBe("keep");
  expect(labelOf([frame("a", "Purple"), frame("b", "none")])).toBe("none");
  expect(labelOf([])).toBe("none");
});

test("a stack is named after its first and last file", () => {
  expect(nameOf([frame("QM_0412.jpg"), frame("QM_0413.jpg"), frame("QM_0416.jpg")])).toBe(
    "QM_0412 to 0416",
  );
  expect(nameOf([frame("roof.tif")])).toBe("roof");
  expect(nameOf([])).toBe("");
});

test("a new stack is prepared as its shoot is, without what was drawn on one view; what does not fit is left", () => {
  const recipe = defaultRecipe("focus");
  const light = {
    id: "l",
    on: true,
    shape: "brush",
    points: [[0.5, 0.5]],
    radius: 0.1,
    soft: 0,
    temperature: 3000,
    tint: 0,
  };
  expect(preparedAs(recipe, undefined)).toEqual(recipe);
  expect(preparedAs(recipe, { temperature: 4200, vignetting: 0.3, local: [light] })).toEqual({
    ...recipe,
    prepare: { ...recipe.prepare, temperature: 4200, vignetting: 0.3 },
  });
  expect(preparedAs(recipe, { temperature: "warm" })).toEqual(recipe);
});

test("a stack that grows stays the same stack; one that falls apart carries on as its larger part, and no two as one", () => {
  const stack = (id: string, ...frameIds: string[]): Stack =>
    ({ id, frameIds }) as unknown as Stack;
  const ids = (found: string[][], before: Stack[]): (string | undefined)[] =>
    carriedOn(found, before).map((s) => s?.id);
  expect(
    ids(
      [
        ["a", "b"],
        ["c", "d", "e"],
      ],
      [stack("1", "a", "b"), stack("2", "c", "d")],
    ),
  ).toEqual(["1", "2"]);
  expect(ids([["a"], ["b", "c"]], [stack("1", "a", "b", "c")])).toEqual([undefined, "1"]);
  expect(ids([["a", "b", "c", "d"]], [stack("1", "a"), stack("2", "b", "c", "d")])).toEqual(["2"]);
  // what is there unchanged is not given away to a larger one
  expect(ids([["a", "b", "c"], ["d"]], [stack("1", "d"), stack("2", "a", "b")])).toEqual([
    "2",
    "1",
  ]);
  expect(ids([["a", "b"]], [stack("1", "a", "x", "y")])).toEqual([undefined]);
  expect(ids([["a"]], [stack("outer")])).toEqual([undefined]);
});
