import { inProcess } from "../../tests/inProcess";
import { AS_SHOT, whiteBalanceGains } from "../../core/colour/whiteBalance";
import { forAnyView, defaultRecipe, parseRecipe } from "../recipe/recipe";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import { decodeInto } from "../readFrames";
import { preparationFor, prepareStep, withPreparation } from "./step";

const W = 160;
const H = 120;
const samples = takeFrame(simulatedRoom(W, H, 9), {
  width: W,
  height: H,
  ev: -0.5,
  toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  seed: 2,
  response: srgbResponse,
}) as Uint8Array;
const two = () =>
  inProcess(["a.png", "b.png"].map((name) => ({ name, samples, width: W, height: H })));
const settings = (exceptions: object[], more: object = {}) => ({
  ...prepareStep.settings.defaults,
  ...more,
  exceptions: exceptions as never[],
});

test("only the frame that is named is treated otherwise, by its id or its file name, and keeps what all have for the rest", () => {
  const { frames } = two();
  const [a, b] = withPreparation(
    [{ ...frames[0]!, id: "first" }, frames[1]!],
    settings(
      [
        { frame: "first", noise: 0.8 },
        { frame: "b.png", dust: [] },
      ],
      { vignetting: 0.2, dust: [{ x: 0.5, y: 0.5, radius: 0.01 }] },
    ),
  );
  expect(a!.preparation).toMatchObject({ vignetting: 0.2, noise: 0.8, dust: [{ x: 0.5 }] });
  expect(b!.preparation).toMatchObject({ vignetting: 0.2, noise: 0, dust: [] });
  expect(
    withPreparation(frames, settings([{ frame: "other", noise: 1 }])).every(
      (f) => f.preparation === undefined,
    ),
  ).toBe(true);
});

test("a frame of another white is neutral where the stack's white is applied to it, and what is clipped stays clipped", async () => {
  const { pool, frames } = two();
  const own = { temperature: 4200, tint: 20 };
  const whole = { temperature: 6000, tint: -10 };
  const [frame] = withPreparation(frames, settings([{ frame: "a.png", ...own }], whole));
  const loaded = await decodeInto(pool, frame!, 1);
  const out = new Uint16Array((await pool.read(loaded.ptr, W * H * 6)).slice().buffer);
  const all = whiteBalanceGains(whole);
  const wanted = whiteBalanceGains(own);
  const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
  const turn = (m: readonly number[], p: readonly number[]): number[] =>
    [0, 1, 2].map((r) => m[r * 3]! * p[0]! + m[r * 3 + 1]! * p[1]! + m[r * 3 + 2]! * p[2]!);
  let worst = 0;
  let clipped = 0;
  let looked = 0;
  for (let i = 0; i < W * H * 3; i += 3) {
    const was = [0, 1, 2].map((c) => linear(samples[i + c]! / 255));
    const now = [0, 1, 2].map((c) => (out[i + c]! / 65535) ** 2);
    was.forEach((v, c) => {
      if (v > 0.99) {
        clipped++;
        expect(now[c]).toBeGreaterThan(0.98);
      }
    });
    if (Math.max(...was, ...now) > 0.7 || Math.min(...was, ...now) < 0.01) continue;
    looked++;
    const want = turn(loaded.matrix, was).map((v, c) => v * wanted[c]!);
    const got = turn(loaded.matrix, now).map((v, c) => v * all[c]!);
    worst = Math.max(worst, ...want.map((v, c) => Math.abs(got[c]! / v - 1)));
  }
  expect(looked).toBeGreaterThan(1000);
  expect(clipped).toBeGreaterThan(0);
  expect(worst).toBeLessThan(0.01);
  pool.free(loaded.ptr);
});

test("what is no exception changes nothing, and exceptions stay with their own stack", () => {
  const { frames } = two();
  expect(preparationFor(frames[0]!, settings([{ frame: "a.png", ...AS_SHOT }]))).toBeUndefined();
  const recipe = defaultRecipe("bracket");
  const with1 = parseRecipe({
    ...recipe,
    prepare: { ...recipe.prepare, noise: 0.3, exceptions: [{ frame: "a", noise: 0.5 }] },
  });
  expect(forAnyView(with1)).toMatchObject({ noise: 0.3 });
  expect(forAnyView(with1)).not.toHaveProperty("exceptions");
  // a recipe that was stored before there were any
  const older: Partial<typeof recipe.prepare> = { ...recipe.prepare };
  delete older.exceptions;
  expect(parseRecipe({ ...recipe, version: 7, prepare: older }).prepare.exceptions).toEqual([]);
  expect(() =>
    parseRecipe({
      ...recipe,
      prepare: { ...recipe.prepare, exceptions: [{ frame: "a", noise: 7 }] },
    }),
  ).toThrow(/exceptions/);
});
