import { RhizomeError } from "../../core/error";
import { asKind, defaultRecipe, parseRecipe, withSetting } from "./recipe";

const base = defaultRecipe("bracket");
const code = (f: () => unknown): string => {
  try {
    f();
  } catch (e) {
    return (e as RhizomeError).code;
  }
  return "none";
};

test("the default recipe is valid and survives JSON", () =>
  expect(parseRecipe(JSON.parse(JSON.stringify(base)))).toEqual(base));

test("a recipe of the first version is brought up to this one", () => {
  const { format, space, depth, quality } = base.deliver;
  const deliver = { format, space, depth, quality };
  expect(parseRecipe({ ...base, version: 1, deliver })).toEqual(base);
  const { frames, align, merge, tone } = withSetting(base, "tone.strength=0.3");
  const { motion, reference, ...rest } = { ...align, ...merge };
  expect(
    parseRecipe({
      version: 2,
      kind: "bracket",
      frames,
      align: { motion },
      merge: { reference, method: rest.method, deghost: rest.deghost },
      tone: { strength: tone.strength },
    }),
  ).toEqual(withSetting(base, "tone.strength=0.3"));
});

test("a bracket is not cut off unless it is asked for, and one of an older version neither", () => {
  expect([base.edges.mode, defaultRecipe("panorama").edges.mode]).toEqual(["keep", "crop"]);
  expect(parseRecipe({ ...base, version: 4, edges: { mode: "crop" } }).edges.mode).toBe("keep");
  expect(
    parseRecipe({ ...defaultRecipe("focus"), version: 4, edges: { mode: "crop" } }).edges.mode,
  ).toBe("crop");
  expect(code(() => withSetting(base, "edges.mode=rectangle"))).toBe("recipe-invalid");
  expect(
    parseRecipe({ ...base, version: 11, edges: { mode: "crop", amount: 0.5 } }).edges,
  ).toMatchObject({ mode: "crop", amount: 0.5, rest: "crop", ratio: "free", part: "auto" });
  expect(
    withSetting(withSetting(base, "edges.ratio=2.35:1"), "edges.part=0.1,0.2,0.5,0.4").edges,
  ).toMatchObject({ ratio: "2.35:1", part: [0.1, 0.2, 0.5, 0.4] });
  for (const wrong of [
    "edges.ratio=3x2",
    "edges.ratio=0:2",
    "edges.part=0.6,0,0.5,1",
    "edges.part=0.1,0.2",
    "edges.rest=bend",
  ])
    expect(code(() => withSetting(base, wrong))).toBe("recipe-invalid");
});

test("settings by name", () => {
  expect(withSetting(base, "tone.strength=0.25").tone.strength).toBe(0.25);
  expect(withSetting(base, "merge.reference=3").merge.reference).toBe(3);
  expect(withSetting(base, "align.motion=none").align.motion).toBe("none");
  expect(withSetting(base, "tone.strength=0.25")).not.toBe(base);
  expect(base.tone.strength).toBe(defaultRecipe("bracket").tone.strength);
});

test.each([
  ["tone.nothing=1", "setting-unknown"],
  ["nonsense", "setting-unknown"],
  ["__proto__.x=1", "setting-unknown"],
  ["tone.constructor=1", "setting-unknown"],
  ["tone.strength=7", "recipe-invalid"],
  ["tone.strength=abc", "recipe-invalid"],
  ["align.motion=sideways", "recipe-invalid"],
])("%s is %s", (text, expected) => expect(code(() => withSetting(base, text))).toBe(expected));

test("a panorama's borders are set as four numbers or left to what is covered, in recipes that knew of none as well", () => {
  const panorama = defaultRecipe("panorama");
  const older = Object.fromEntries(
    Object.entries(panorama.panorama).filter(([k]) => k !== "extent" && k !== "distance"),
  );
  expect(withSetting(panorama, "panorama.extent=60,50,20,10").panorama.extent).toEqual([
    60, 50, 20, 10,
  ]);
  expect(
    withSetting(withSetting(panorama, "panorama.extent=60,50,20,10"), "panorama.extent=auto"),
  ).toEqual(panorama);
  for (const bad of ["60,50", "a,b,c,d", "0,0,0,0", "200,20,20,20"])
    expect(code(() => withSetting(panorama, `panorama.extent=${bad}`))).toBe("recipe-invalid");
  expect(parseRecipe({ ...panorama, version: 9, panorama: older })).toEqual(panorama);
});

test("a recipe holds the steps of its kind, and an older one loses those of other kinds", () => {
  const panorama = defaultRecipe("panorama");
  expect(Object.keys(panorama)).not.toContain("ghosts");
  expect(Object.keys(base)).not.toContain("panorama");
  const { align, merge, ghosts } = base;
  expect(parseRecipe({ ...panorama, version: 20, align, merge, ghosts })).toEqual(panorama);
  expect(parseRecipe({ ...base, version: 20, panorama: panorama.panorama })).toEqual(base);
  expect(code(() => withSetting(panorama, "merge.method=radiance"))).toBe("setting-unknown");
  expect(code(() => withSetting(base, "panorama.yaw=3"))).toBe("setting-unknown");
});

test("what is no recipe is refused by name", () => {
  for (const bad of [
    null,
    1,
    "x",
    [],
    {},
    { ...base, version: 99 },
    { ...base, tone: { ...base.tone, exposure: Infinity } },
  ])
    expect(code(() => parseRecipe(bad))).toBe("recipe-invalid");
  expect(code(() => defaultRecipe("nothing"))).toBe("kind-unknown");
});

test("a list of numbers is set as numbers; a kind takes only its own ways of merging", () => {
  expect(withSetting(defaultRecipe("bracket"), "tone.lifts=0,1,0.5,0,-1").tone.lifts).toEqual([
    0, 1, 0.5, 0, -1,
  ]);
  expect(code(() => withSetting(defaultRecipe("bracket"), "tone.lifts=1,2"))).toBe(
    "recipe-invalid",
  );
  expect(code(() => withSetting(defaultRecipe("bracket"), "merge.method=pyramid"))).toBe(
    "recipe-invalid",
  );
  expect(defaultRecipe("focus").merge.method).toBe("mixed");
  expect(defaultRecipe("panorama").tone.operator).toBe("plain");
});

test("a recipe of another kind keeps what was chosen for its frames and its delivery", () => {
  const was = withSetting(
    withSetting(defaultRecipe("bracket"), "deliver.quality=71"),
    "prepare.temperature=4000",
  );
  const now = asKind(was, "panorama");
  expect(now).toMatchObject({
    kind: "panorama",
    deliver: { quality: 71 },
    prepare: { temperature: 4000 },
    tone: { operator: "plain" },
  });
  expect(asKind(was, "bracket")).toBe(was);
});

test("contrast and saturation of an older finish become the whole picture's", () => {
  const old = { ...base, version: 13, finish: { contrast: 0.5, saturation: -1 } };
  const { finish } = parseRecipe(old);
  expect(finish.whole).toMatchObject({ contrast: 0.5, exposure: 0 });
  expect(finish.whole.saturation).toBeLessThan(-0.8);
  expect(finish.parts).toEqual([]);
});

test("adjustments of the whole picture are set by name, and a group by none", () => {
  expect(withSetting(base, "finish.whole.darks=0.4").finish.whole.darks).toBe(0.4);
  const curve = withSetting(base, "finish.whole.curve=[[0.2,0.1],[0.8,0.9]]").finish.whole.curve;
  expect(curve).toHaveLength(2);
  for (const wrong of ["finish.whole=1", "finish.whole.sparkle=1"])
    expect(code(() => withSetting(base, wrong))).toBe("setting-unknown");
  for (const wrong of [
    "finish.whole.darks=4",
    "finish.whole.curve=[[0.8,0.1],[0.2,0.9]]",
    "finish.parts=[{}]",
  ])
    expect(code(() => withSetting(base, wrong))).toBe("recipe-invalid");
});

test("a part keeps only what is set of it, and nothing that nobody knows", () => {
  const part = {
    id: "a",
    name: "Sky",
    on: true,
    amount: 0.8,
    inverted: false,
    feather: 0,
    shapes: [{ type: "sky", joining: "add" }],
    adjustments: { exposure: -0.5 },
  };
  const parsed = parseRecipe({ ...base, finish: { ...base.finish, parts: [part] } });
  expect(parsed.finish.parts).toEqual([{ ...part, off: [] }]);
  const odd = { ...part, adjustments: { sparkle: 1 } };
  expect(code(() => parseRecipe({ ...base, finish: { ...base.finish, parts: [odd] } }))).toBe(
    "recipe-invalid",
  );
});
