import { defaultRecipe, withSetting } from "../../pipeline/recipe/recipe";
import { noteUnsaved, recoverUnsaved } from "./unsaved";

const kept = new Map<string, string>();
beforeEach(() => {
  kept.clear();
  globalThis.localStorage = {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, value: string) => void kept.set(k, value),
    removeItem: (k: string) => void kept.delete(k),
  } as unknown as Storage;
});

const stored = defaultRecipe("bracket");
const brighter = withSetting(stored, "tone.exposure=1");

test("a change that was on screen as the page went away is recovered, once", () => {
  noteUnsaved("t1", stored, brighter);
  expect(recoverUnsaved("t2", stored)).toBeUndefined();
  expect(recoverUnsaved("t1", stored)).toEqual(brighter);
  expect(recoverUnsaved("t1", stored)).toBeUndefined();
});

test("it is forgotten where it was stored after all, or the take was changed since", () => {
  noteUnsaved("t1", stored, brighter);
  expect(recoverUnsaved("t1", brighter)).toBeUndefined();
  noteUnsaved("t1", stored, brighter);
  expect(recoverUnsaved("t1", withSetting(stored, "tone.exposure=0.5"))).toBeUndefined();
  expect(kept.size).toBe(0);
});

test.each(["{", "[]", '{"takeId":"t1","base":"","recipe":{"kind":"nothing"}}'])(
  "what cannot be read is dropped: %s",
  (text) => {
    kept.set("unsaved t1", text);
    expect(recoverUnsaved("t1", stored)).toBeUndefined();
    expect(kept.size).toBe(0);
  },
);
