import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { KINDS } from "../recipe/kinds";
import { hasStep } from "../kindSteps";
import { defaultRecipe, parseRecipe, withSetting, type Recipe } from "../recipe/recipe";
import type { StepName } from "../registry";
import { applies } from "./applies";
import type { Field } from "./fields";
import { readSetting } from "./readSetting";
import { fieldNamed, settingLines, type SettingName } from "./reference";

const names = settingLines().flatMap(({ lines }) => lines.map(({ name }) => name as SettingName));
const field = (name: SettingName): Field => fieldNamed(name)!;

test.each(names)("%s: it is described, and its defaults are what it takes", (name) => {
  const { label, help, schema, default: usual, defaultOf = {} } = field(name);
  expect(label.length).toBeGreaterThan(2);
  // the row of a control holds so much of it
  expect(label.length).toBeLessThan(22);
  expect(help).toMatch(/^\p{Lu}.*\.$/u);
  for (const value of [usual, ...Object.values(defaultOf)])
    expect(v.safeParse(schema as v.GenericSchema, value).success).toBe(true);
});

test.each(names)("%s: written as text it is read as the value that it was", (name) => {
  const value = field(name).default;
  const text = typeof value === "string" ? value : JSON.stringify(value);
  expect(readSetting(field(name), text)).toEqual({ value });
});

test("numbers, names, lists and JSON are read as each setting takes them", () => {
  expect(readSetting(field("merge.reference"), "2")).toEqual({ value: 2 });
  expect(readSetting(field("merge.reference"), "auto")).toEqual({ value: "auto" });
  expect(readSetting(field("tone.lifts"), "1,0,-0.5,0,0")).toEqual({ value: [1, 0, -0.5, 0, 0] });
  expect(readSetting(field("panorama.extent"), "40,40,20,10")).toEqual({ value: [40, 40, 20, 10] });
  expect(readSetting(field("frames.leftOut"), "a.jpg,b.jpg")).toEqual({
    value: ["a.jpg", "b.jpg"],
  });
  // a creator may be a number, and is none
  expect(readSetting(field("deliver.creator"), "2026")).toEqual({ value: "2026" });
  expect(readSetting(field("prepare.dust"), '[{"x":0.5,"y":0.5,"radius":0.01}]')).toEqual({
    value: [{ x: 0.5, y: 0.5, radius: 0.01 }],
  });
  for (const [name, text] of [
    ["tone.strength", "much"],
    ["tone.strength", "1.5"],
    ["tone.strength", ""],
    ["deliver.quality", "90.5"],
    ["tone.lifts", "1,2"],
    ["prepare.dust", "[{"],
  ] as const)
    expect(readSetting(field(name), text)).toBeUndefined();
});

const refusal = (act: () => unknown): RhizomeError => {
  try {
    act();
  } catch (e) {
    return RhizomeError.from(e);
  }
  throw new Error("nothing was refused");
};

test("a value that does not fit is refused with the setting's name, and what it takes", () => {
  const typed = refusal(() => withSetting(defaultRecipe("bracket"), "tone.strength=7"));
  expect([typed.code, typed.message.includes("tone.strength"), typed.remedy]).toEqual([
    "recipe-invalid",
    true,
    expect.stringContaining("0 to 1"),
  ]);
  const recipe = defaultRecipe("bracket");
  const filed = refusal(() =>
    parseRecipe({ ...recipe, deliver: { ...recipe.deliver, quality: 0 } }),
  );
  expect([filed.code, filed.message.includes("deliver.quality"), filed.remedy]).toEqual([
    "recipe-invalid",
    true,
    expect.stringContaining("1 to 100"),
  ]);
});

test.each(KINDS)("a %s takes of a choice what its kind knows, and nothing else", (kind) => {
  const recipe = defaultRecipe(kind);
  for (const name of names) {
    const described = field(name);
    if (described.type !== "choice") continue;
    for (const { value, kinds } of described.options) {
      const set = (): unknown => withSetting(recipe, `${name}=${value}`);
      if (!hasStep(kind, name.split(".")[0] as StepName))
        expect(refusal(set).code).toBe("setting-unknown");
      else if (!kinds || kinds.includes(kind)) expect(set).not.toThrow();
      else expect(refusal(set).code).toBe("recipe-invalid");
    }
  }
});

test.each(KINDS)("of every setting it is known whether it has an effect in a %s", (kind) => {
  const recipe = defaultRecipe(kind);
  for (const name of names) expect(typeof applies(field(name).when, recipe)).toBe("boolean");
  expect(applies(field("tone.exposure").when, recipe)).toBe(true);
  expect(applies(field("tone.operator").when, recipe)).toBe(true);
});

test("a setting has an effect for its kinds, and while others are as it needs them", () => {
  const bracket = defaultRecipe("bracket");
  const shown = (name: SettingName, recipe: Recipe = bracket): boolean =>
    applies(field(name).when, recipe);
  expect([shown("tone.detail"), shown("merge.ghostStrength"), shown("edges.amount")]).toEqual([
    true,
    true,
    false,
  ]);
  expect(shown("tone.detail", withSetting(bracket, "tone.operator=global"))).toBe(false);
  expect(shown("merge.ghostStrength", withSetting(bracket, "merge.deghost=off"))).toBe(false);
  const bent = withSetting(defaultRecipe("panorama"), "edges.mode=rectangle");
  expect(shown("edges.amount", bent)).toBe(true);
});
