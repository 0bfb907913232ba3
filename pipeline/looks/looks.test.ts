import { ADJUSTMENT_FIELDS } from "../finish/adjustmentFields";
import { defaultRecipe, parseRecipe, type Recipe } from "../recipe/recipe";
import { applyLook } from "./applyLook";
import { BUILT_IN_LOOKS } from "./builtIn";
import { lookText, parseLook, readLook, type Look } from "./look";
import { makeLook } from "./makeLook";

const KINDS = ["bracket", "panorama", "focus"] as const;
const AMOUNTS = [0, 0.05, 0.5, 1, 1.2, 1.5];
const recipe = defaultRecipe("bracket");
const withWhole = (more: Partial<Recipe["finish"]["whole"]>): Recipe => ({
  ...recipe,
  finish: { ...recipe.finish, whole: { ...recipe.finish.whole, ...more } },
});
const lookOf = (more: Partial<Look>): Look => ({
  format: "rhizome look",
  version: 1,
  name: "Test",
  note: "",
  tone: {},
  finish: {},
  parts: [],
  ...more,
});

test.each(BUILT_IN_LOOKS.map((look) => [look.name, look] as const))(
  "%s reads back from its file, and every amount of it is a recipe of every kind",
  (_, look) => {
    expect(readLook(lookText(look), "a file")).toEqual(look);
    for (const kind of KINDS)
      for (const amount of AMOUNTS) {
        const own = defaultRecipe(kind);
        const applied = applyLook(own, look, amount);
        expect(parseRecipe(applied)).toEqual(applied);
        if (amount === 0) expect(applied).toBe(own);
        else expect(applied).not.toEqual(own);
        // nothing but tone and finish
        expect({ ...applied, tone: own.tone, finish: own.finish }).toEqual(own);
      }
  },
);

test("every setting goes from the picture's own to the look's, and on to one and a half", () => {
  const own = withWhole({ contrast: 0.2, temperature: 6000 });
  const look = lookOf({ finish: { contrast: 0.4, temperature: 8000, exposure: 1 } });
  const contrasts = AMOUNTS.map((amount) => applyLook(own, look, amount).finish.whole.contrast);
  contrasts.forEach((value, i) => expect(value).toBeCloseTo(0.2 + 0.2 * AMOUNTS[i]!, 9));
  const half = applyLook(own, look, 0.5).finish.whole;
  expect(1e6 / half.temperature).toBeCloseTo((1e6 / 6000 + 1e6 / 8000) / 2, 6);
  expect(half.exposure).toBe(0.5);
});

test("extremes stay within what a setting allows", () => {
  for (const [key, field] of Object.entries(ADJUSTMENT_FIELDS)) {
    if (field.type !== "number") continue;
    for (const own of [field.min, field.max])
      for (const to of [field.min, field.max]) {
        const look = lookOf({ finish: { [key]: to } });
        const applied = applyLook(withWhole({ [key]: own }), look, 1.5);
        expect(parseRecipe(applied)).toEqual(applied);
      }
  }
});

test("curves mix point by point and stay rising; hues are weighed by what is done to them", () => {
  const look = lookOf({
    finish: {
      curve: [
        [0.25, 0.1],
        [0.75, 0.9],
      ],
      hues: [{ hue: 30, reach: 20, turn: 10, saturation: 0.8, lightness: -0.4 }],
    },
  });
  const half = applyLook(recipe, look, 0.5).finish.whole;
  half.curve.forEach(([x, y], i) =>
    expect([x, y]).toEqual([[0.25, 0.75][i], expect.closeTo([0.175, 0.825][i]!, 6)]),
  );
  expect(half.hues[0]).toMatchObject({ hue: 30, reach: 20, turn: 5, saturation: 0.4 });
  const far = applyLook(recipe, look, 1.5).finish.whole;
  far.curve.slice(1).forEach(([, y], i) => expect(y).toBeGreaterThanOrEqual(far.curve[i]![1]));
  expect(far.hues[0]!.saturation).toBe(1);
});

test("another look takes the place of a look's parts, and leaves the user's own", () => {
  const sky = BUILT_IN_LOOKS.find(({ parts }) => parts.length)!;
  const own = { ...sky.parts[0]!, id: "mine", name: "Mine" };
  const begun = { ...recipe, finish: { ...recipe.finish, parts: [own] } };
  const first = applyLook(begun, sky, 1);
  expect(first.finish.parts).toHaveLength(2);
  const again = applyLook(first, sky, 0.4);
  expect(again.finish.parts).toHaveLength(2);
  expect(again.finish.parts[1]!.amount).toBeCloseTo(0.4);
  expect(applyLook(again, lookOf({ finish: { contrast: 0.1 } }), 1).finish.parts).toEqual([own]);
});

test("a look is made of what a recipe sets, without exposure and what was drawn, and gives it back", () => {
  const drawn = {
    ...BUILT_IN_LOOKS.find(({ parts }) => parts.length)!.parts[0]!,
    id: "drawn",
    shapes: [
      {
        type: "ellipse",
        joining: "add",
        centre: [0.5, 0.5],
        radii: [0.2, 0.2],
        angle: 0,
        feather: 0.5,
      },
    ],
  } as Recipe["finish"]["parts"][number];
  const made = makeLook(
    {
      ...withWhole({ contrast: 0.3, darksHue: 20 }),
      tone: { ...recipe.tone, strength: 0.4, exposure: 2 },
      finish: { ...withWhole({ contrast: 0.3 }).finish, parts: [drawn] },
    },
    "Mine",
  );
  expect(made.tone).toEqual({ strength: 0.4 });
  expect(made.finish).toEqual({ contrast: 0.3 });
  expect(made.parts).toEqual([]);
  expect(parseLook(made, "it")).toEqual(made);
  expect(applyLook(recipe, made, 1).finish.whole.contrast).toBe(0.3);
});

test.each([
  ["no JSON", "{"],
  ["another file", JSON.stringify({ version: 14, kind: "bracket" })],
  ["a setting nobody knows", lookText(lookOf({ finish: { sparkle: 1 } as never }))],
  ["a value out of range", lookText(lookOf({ finish: { contrast: 7 } }))],
  [
    "a part that was drawn",
    lookText(lookOf({ parts: [{ shapes: [{ type: "outline" }] }] as never })),
  ],
])("%s is refused by the file's name", (_, text) => {
  expect(() => readLook(text, "odd.json")).toThrow(/odd\.json/);
});
