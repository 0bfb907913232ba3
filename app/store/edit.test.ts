import { defaultRecipe, withSetting } from "../../pipeline/recipe/recipe";
import { random } from "../../core/math/random";
import {
  cut,
  fixedCount,
  join,
  leaveOut,
  mark,
  moveFrames,
  nest,
  setReference,
  takeOut,
  unnest,
  type Arrangement,
  type Edit,
} from "./edit";
import { applySettings } from "./applySettings";
import type { Stack, Take } from "./records";

let n = 0;
const stack = (id: string, frames: string, kind: Stack["kind"] = "bracket"): Stack => ({
  id,
  shootId: "s",
  kind,
  name: id,
  order: n++,
  frameIds: frames ? [...frames] : [],
  why: "found",
  warnings: [],
  takeId: `t${id}`,
  rating: 0,
  label: "none",
  note: "",
  done: false,
  accepted: [],
  madeManually: false,
});
const take = (s: Stack): Take => ({
  id: s.takeId,
  stackId: s.id,
  shootId: "s",
  name: "First",
  note: "",
  order: 0,
  recipe: defaultRecipe("bracket"),
});
const arranged = (stacks: Stack[], takes = stacks.map(take)): Arrangement => ({
  stacks,
  takes: new Map(takes.map((t) => [t.id, t])),
  newId: () => `n${n++}`,
  nameOf: (f) => f.join(""),
});

/** The arrangement after a change. */
function after(a: Arrangement, m: Edit): Arrangement {
  const stacks = new Map(a.stacks.map((s) => [s.id, s]));
  const takes = new Map(a.takes);
  for (const p of m.puts) {
    if (p.store === "stacks") {
      if ("value" in p) stacks.set(p.value.id, p.value);
      else stacks.delete(p.remove);
    }
    if (p.store === "takes") {
      if ("value" in p) takes.set(p.value.id, p.value);
      else takes.delete(p.remove);
    }
  }
  return { ...a, stacks: [...stacks.values()].sort((x, y) => x.order - y.order), takes };
}
const shape = (a: Arrangement): string =>
  a.stacks.map((s) => `${s.kind[0]}${s.frameIds.join("")}`).join(" ");
const base = () => {
  const A = stack("A", "abc");
  const B = stack("B", "de");
  const C = stack("C", "f", "single");
  return { a: arranged([A, B, C]), A, B, C };
};

test("cut, join, move, take out: stacks are as expected, in order, and marked as made manually", () => {
  const { a, A, B, C } = base();
  expect(shape(after(a, cut(a, A, 1)))).toBe("sa bbc bde sf");
  expect(shape(after(a, join(a, [B, C])))).toBe("babc bdef");
  expect(shape(after(a, moveFrames(a, ["c"], B, 0)))).toBe("bab bcde sf");
  expect(shape(after(a, moveFrames(a, ["f"], B)))).toBe("babc bdef");
  expect(shape(after(a, moveFrames(a, ["a"], A, 3)))).toBe("bbca bde sf");
  expect(shape(after(a, takeOut(a, A, ["b", "c"])))).toBe("sa sb sc bde sf");
  expect(shape(after(a, fixedCount(a, [A, B, C], 2)))).toBe("bab bcd bef");
  expect(
    after(a, cut(a, A, 1))
      .stacks.filter((s) => s.madeManually)
      .map((s) => s.frameIds.join("")),
  ).toEqual(["a", "bc"]);
});

test("what would change nothing writes nothing", () => {
  const { a, A, B } = base();
  for (const m of [
    cut(a, A, 0),
    cut(a, A, 3),
    join(a, [A]),
    moveFrames(a, ["a"], A, 0),
    takeOut(a, B, ["d", "e"]),
    takeOut(a, B, []),
    mark([A], "Rate", { rating: 0 }),
    unnest(a, A),
    nest(a, [A]),
    leaveOut(a, B, ["d", "e"]),
  ])
    expect(m.puts).toEqual([]);
});

test("settings stay with a stack when frames come and go, and its reference frame stays the same frame", () => {
  const { a, A, B } = base();
  const referred = after(a, setReference(a, A, "c"));
  expect(referred.takes.get("tA")!.recipe).toMatchObject({ merge: { reference: 2 } });
  const fewer = after(referred, takeOut(referred, referred.stacks[0]!, ["a"]));
  expect(fewer.takes.get("tA")!.recipe).toMatchObject({ merge: { reference: 1 } });
  const gone = after(referred, moveFrames(referred, ["c"], B));
  expect(gone.takes.get("tA")!.recipe).toMatchObject({ merge: { reference: "auto" } });
  const out = after(a, leaveOut(a, A, ["b"]));
  expect(out.takes.get("tA")!.recipe.frames.leftOut).toEqual(["b"]);
  expect(after(out, leaveOut(out, A, ["b"])).takes.get("tA")!.recipe.frames.leftOut).toEqual([]);
});

test("nesting and un-nesting keep the members", () => {
  const { a, A, B } = base();
  const nested = after(a, nest(a, [A, B]));
  const outer = nested.stacks.find((s) => !s.frameIds.length)!;
  expect(outer.kind).toBe("panorama");
  expect(nested.stacks.indexOf(outer)).toBe(0);
  expect(nested.stacks.filter((s) => s.parentId === outer.id).map((s) => s.id)).toEqual(["A", "B"]);
  expect(shape(after(nested, unnest(nested, outer)))).toBe(shape(a));
});

test("whatever is done, in any order, no frame is lost and none is in two stacks", () => {
  const rnd = random(9);
  const pick = <T>(l: readonly T[]): T => l[Math.floor(rnd() * l.length)]!;
  let a = arranged([
    stack("P", "abcde"),
    stack("Q", "fgh"),
    stack("R", "ijkl"),
    stack("S", "m", "single"),
  ]);
  for (let i = 0; i < 400; i++) {
    const s = pick(a.stacks);
    const t = pick(a.stacks);
    const frame = pick(s.frameIds.length ? s.frameIds : ["a"]);
    const m = pick([
      () => cut(a, s, Math.floor(rnd() * 5)),
      () => (s === t ? mark([s], "Rate", { rating: 3 }) : join(a, [s, t])),
      () =>
        t.frameIds.length ? moveFrames(a, [frame, "h"], t, Math.floor(rnd() * 4)) : unnest(a, t),
      () => takeOut(a, s, [frame]),
      () => fixedCount(a, [s, ...(s === t ? [] : [t])], 1 + Math.floor(rnd() * 4)),
      () => (s === t ? leaveOut(a, s, [frame]) : nest(a, [s, t])),
      () => unnest(a, s),
    ])();
    a = after(a, m);
    expect(
      a.stacks
        .flatMap((x) => x.frameIds)
        .sort()
        .join(""),
    ).toBe("abcdefghijklm");
    expect(a.stacks.every((x) => a.takes.has(x.takeId))).toBe(true);
    expect(new Set(a.stacks.map((x) => x.order)).size).toBe(a.stacks.length);
  }
});

test("settings are applied to other stacks: the parts asked for, toning only on its own kind, nothing about single frames", () => {
  const { a, A, B } = base();
  const own = a.takes.get(A.takeId)!;
  const F = stack("F", "gh", "focus");
  const takes = new Map(a.takes).set(A.takeId, {
    ...own,
    recipe: {
      ...own.recipe,
      frames: { leftOut: ["a"] },
      prepare: { ...own.recipe.prepare, temperature: 3200 },
      tone: { ...own.recipe.tone, strength: 0.2 },
      deliver: { ...own.recipe.deliver, creator: "Mara" },
    },
  });
  takes.set(F.takeId, { ...take(F), recipe: defaultRecipe("focus") });
  const all: Arrangement = { ...a, stacks: [...a.stacks, F], takes };
  const done = after(all, applySettings(all, A, [A, B, F], ["prepare", "tone", "deliver"]));
  const of = (s: Stack) => done.takes.get(s.takeId)!.recipe;
  expect(of(B)).toMatchObject({
    frames: { leftOut: [] },
    prepare: { temperature: 3200 },
    tone: { strength: 0.2 },
    deliver: { creator: "Mara" },
  });
  expect(of(F)).toMatchObject({
    prepare: { temperature: 3200 },
    tone: defaultRecipe("focus").tone,
  });
  expect(of(B).finish.whole).toEqual(of(F).finish.whole);
  // what was drawn on one view stays there
  const light = {
    id: "l",
    on: true,
    shape: "brush" as const,
    points: [[0.5, 0.5]] as [number, number][],
    radius: 0.1,
    soft: 0,
    temperature: 3000,
    tint: 0,
  };
  const lit: Arrangement = {
    ...all,
    takes: new Map(all.takes).set(A.takeId, {
      ...all.takes.get(A.takeId)!,
      recipe: {
        ...all.takes.get(A.takeId)!.recipe,
        prepare: { ...all.takes.get(A.takeId)!.recipe.prepare, local: [light] },
      },
    }),
  };
  expect(
    after(lit, applySettings(lit, A, [B], ["prepare"])).takes.get(B.takeId)!.recipe.prepare,
  ).toMatchObject({ temperature: 3200, local: [] });
  expect(applySettings(all, A, [B], ["prepare"]).puts).toHaveLength(1);
  expect(applySettings(done, A, [A, B], ["prepare", "tone", "deliver"]).puts).toEqual([]);
});

const part = (id: string, type: "sky" | "gradient") => ({
  id,
  name: id,
  on: true,
  amount: 1,
  inverted: false,
  feather: 0,
  shapes: [
    type === "sky"
      ? { type, joining: "add" as const }
      : {
          type,
          joining: "add" as const,
          from: [0, 0] as [number, number],
          to: [1, 1] as [number, number],
        },
  ],
  off: [],
  adjustments: { exposure: 0.5 },
});

test("a finish goes over whole or by groups; drawn parts stay with their own picture", () => {
  const { a, A, B } = base();
  const source = withSetting(
    withSetting(defaultRecipe("bracket"), "finish.whole.fine=0.5"),
    "finish.whole.saturation=0.3",
  );
  const parts = [part("sky", "sky"), part("drawn", "gradient")];
  const takes = new Map(a.takes)
    .set(A.takeId, { ...take(A), recipe: { ...source, finish: { ...source.finish, parts } } })
    .set(B.takeId, {
      ...take(B),
      recipe: {
        ...defaultRecipe("bracket"),
        finish: { ...defaultRecipe("bracket").finish, parts: [part("own", "gradient")] },
      },
    });
  const all: Arrangement = { ...a, takes };
  const finishOf = (which: Parameters<typeof applySettings>[3]) =>
    after(all, applySettings(all, A, [B], which)).takes.get(B.takeId)!.recipe.finish;
  expect(finishOf(["detail"]).whole).toMatchObject({ fine: 0.5, saturation: 0 });
  expect(finishOf(["detail"]).parts.map(({ id }) => id)).toEqual(["own"]);
  const whole = finishOf(["finish"]);
  expect(whole.whole).toMatchObject({ fine: 0.5, saturation: 0.3 });
  expect(whole.parts.map(({ id }) => id)).toEqual(["own", "sky"]);
  expect(finishOf(["deliver"])).toEqual(takes.get(B.takeId)!.recipe.finish);
});
