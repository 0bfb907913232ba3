import { RhizomeError } from "../error";
import { defaultRecipe, parseRecipe, withSetting } from "./recipe";

const base = defaultRecipe("bracket");
const code = (f: () => unknown): string => { try { f(); } catch (e) { return (e as RhizomeError).code; } return "none"; };

test("the default recipe is valid and survives JSON", () => expect(parseRecipe(JSON.parse(JSON.stringify(base)))).toEqual(base));

test("a recipe of the first version is brought up to this one", () => {
  const { format, space, depth, quality } = base.deliver, deliver = { format, space, depth, quality };
  expect(parseRecipe({ ...base, version: 1, deliver })).toEqual(base);
});

test("settings by name", () => {
  expect(withSetting(base, "tone.strength=0.25").tone.strength).toBe(0.25);
  expect(withSetting(base, "merge.reference=3").merge.reference).toBe(3);
  expect(withSetting(base, "align.motion=none").align.motion).toBe("none");
  expect(withSetting(base, "tone.strength=0.25")).not.toBe(base);
  expect(base.tone.strength).toBe(defaultRecipe("bracket").tone.strength);
});

test.each([["tone.nothing=1", "setting-unknown"], ["nonsense", "setting-unknown"], ["__proto__.x=1", "setting-unknown"], ["tone.constructor=1", "setting-unknown"], ["tone.strength=7", "recipe-invalid"], ["tone.strength=abc", "recipe-invalid"], ["align.motion=sideways", "recipe-invalid"]])("%s is %s", (text, expected) => expect(code(() => withSetting(base, text))).toBe(expected));

test("what is no recipe is refused by name", () => {
  for (const bad of [null, 1, "x", [], {}, { ...base, version: 9 }, { ...base, tone: { ...base.tone, exposure: Infinity } }]) expect(code(() => parseRecipe(bad))).toBe("recipe-invalid");
  expect(code(() => defaultRecipe("nothing"))).toBe("kind-unknown");
});
