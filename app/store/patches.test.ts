import { random as seeded } from "../../core/math/random";
import { patched, patchesBetween } from "./patches";

type Json = string | number | boolean | Json[] | { [key: string]: Json };

/** A record such as are stored: objects in objects, lists, plain values. */
function anyRecord(random: () => number, depth = 3): { [key: string]: Json } {
  const value = (left: number): Json => {
    const which = Math.floor(random() * (left ? 5 : 3));
    if (which === 0) return Math.round(random() * 100) / 10;
    if (which === 1) return random() < 0.5;
    if (which === 2) return `text ${Math.floor(random() * 5)}`;
    if (which === 3) return Array.from({ length: Math.floor(random() * 4) }, () => value(left - 1));
    return anyRecord(random, left - 1);
  };
  const keys = ["a", "b", "c", "d"].filter(() => random() < 0.7);
  return Object.fromEntries(keys.map((key) => [key, value(depth)]));
}

test("patches lead from one record to any other, and back", () => {
  const random = seeded(5);
  for (let i = 0; i < 300; i++) {
    const [before, after] = [anyRecord(random), anyRecord(random)];
    const { forth, back } = patchesBetween(before, after);
    expect(patched(before, forth)).toEqual(after);
    expect(patched(after, back)).toEqual(before);
  }
});

test("nothing differs, nothing is kept", () => {
  const record = { a: [1, { b: 2 }], c: { d: "e" } };
  expect(patchesBetween(record, structuredClone(record))).toEqual({ forth: [], back: [] });
});

test("what was changed elsewhere in the record stays, both ways", () => {
  const { forth, back } = patchesBetween(
    { tone: { strength: 0.5, detail: 0 } },
    { tone: { strength: 0.8, detail: 0 } },
  );
  const meanwhile = { tone: { strength: 0.5, detail: 0.3 }, note: "late" };
  const now = patched(meanwhile, forth);
  expect(now).toEqual({ tone: { strength: 0.8, detail: 0.3 }, note: "late" });
  expect(patched(now, back)).toEqual(meanwhile);
});

test("a patch about something that is gone is passed over, the others are not", () => {
  const { forth } = patchesBetween({ a: { b: { c: 1 } }, d: 1 }, { a: { b: { c: 2 } }, d: 2 });
  expect(patched({ d: 1 } as object, forth)).toEqual({ d: 2 });
});

test("the records that patches are made from stay as they are", () => {
  const before = Object.freeze({ a: Object.freeze([1]), b: 1 });
  const after = { a: [1, 2], b: 2 };
  patchesBetween(before, after);
  expect(before).toEqual({ a: [1], b: 1 });
  expect(Object.isFrozen(after.a)).toBe(false);
});
