import * as v from "valibot";
import { defaultRecipe, withSetting } from "./recipe/recipe";
import type { FrameInfo } from "../core/frame/frame";
import { sceneKey } from "./keys";
import { STEP_NAMES, STEPS } from "./registry";
import type { StackFrame } from "./work";

const info: FrameInfo = {
  name: "a.jpg",
  format: "jpeg",
  width: 6000,
  height: 4000,
  depth: 8,
  profile: "sRGB",
  exif: { exposureTime: 0.1 },
};
const frame = (id: string, content: string, exposureTime: number): StackFrame => ({
  id,
  content,
  source: { name: id },
  info: { ...info, name: id, exif: { exposureTime } },
});
const frames = [frame("a", "1", 0.1), frame("b", "2", 0.4), frame("c", "3", 1.6)];
const recipe = defaultRecipe("bracket");

test.each(STEP_NAMES)("%s: its defaults satisfy its own schema", (name) => {
  const { schema, defaults } = STEPS[name].settings;
  expect(v.safeParse(schema as v.GenericSchema, defaults).success).toBe(true);
});

test.each(["merge", "deliver"] as const)(
  "%s: its plan has the size of the picture at that scale, and takes no more when reduced",
  (name) => {
    const plan = (n: number, downscale: number) =>
      STEPS[name].plan(
        Array.from({ length: n }, () => info),
        recipe[name] as never,
        downscale,
      );
    expect(plan(5, 1)).toMatchObject({ width: 6000, height: 4000 });
    expect(plan(5, 4)).toMatchObject({ width: 1500, height: 1000 });
    expect(plan(5, 4).peakBytes).toBeLessThanOrEqual(plan(5, 1).peakBytes);
    expect(plan(5, 1).heldBytes).toBeLessThanOrEqual(plan(5, 1).peakBytes);
  },
);

test("a merge at full size takes the same memory for any number of frames", () => {
  const peak = (n: number) =>
    STEPS.merge.plan(
      Array.from({ length: n }, () => info),
      recipe.merge,
      1,
    ).peakBytes;
  expect(peak(20)).toBe(peak(5));
  expect(peak(5)).toBeLessThan(1.2 * 2 ** 30);
});

test("a merge's key changes with what it was made from, and with nothing else", () => {
  const key = sceneKey(frames, recipe, 4);
  for (const s of [
    "tone.strength=0.1",
    "finish.whole.contrast=0.5",
    "prepare.temperature=4000",
    "deliver.quality=50",
  ])
    expect(sceneKey(frames, withSetting(recipe, s), 4)).toBe(key);
  expect(
    sceneKey(
      frames.map((f) => ({ ...f, id: `${f.id}x` })),
      recipe,
      4,
    ),
  ).toBe(key);
  for (const s of ["align.motion=none", "merge.deghost=off", "merge.reference=0"])
    expect(sceneKey(frames, withSetting(recipe, s), 4)).not.toBe(key);
  expect(sceneKey(frames, recipe, 2)).not.toBe(key);
  expect(sceneKey(frames.slice(0, 2), recipe, 4)).not.toBe(key);
  expect(sceneKey([frames[0]!, frames[1]!, frame("c", "4", 1.6)], recipe, 4)).not.toBe(key);
});
