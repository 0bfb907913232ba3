import { inProcess } from "../../tests/inProcess";
import { defaultRecipe, toneOf, withSetting, type Recipe } from "../recipe/recipe";
import { simulatedRoom } from "../../simulate/room";
import { begin } from "../merge/fold";
import { toScene } from "../merge/finish";
import type { Scene } from "../merge/scene";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import { renderSettings } from "./renderSettings";
import { OwnPieces } from "../finish/pieces";
import { finishStep } from "../finish/step";
import { toneStep } from "../tone/step";
import { atOnce, deliverStep, type Coming, type Delivery } from "./step";

const W = 320;
const H = 200;
const room = simulatedRoom(W, H, 15);
const watch = { progress: () => undefined };
type Pool = ReturnType<typeof inProcess>["pool"];

/** The room's light as a scene; an ellipse of it is covered. */
async function sceneOf(pool: Pool, { width, height, planes } = room): Promise<Scene> {
  const acc = begin(pool, { width, height });
  const covered = Float32Array.from({ length: width * height }, (_, i) =>
    ((i % width) - 160) ** 2 / 150 ** 2 + (Math.floor(i / width) - 100) ** 2 / 90 ** 2 < 1 ? 1 : 0,
  );
  for (const [c, plane] of [...planes, covered].entries())
    await pool.run("put", {
      ptr: acc.ptr + c * acc.planeBytes,
      bytes: new Uint8Array(Float32Array.from(plane).buffer),
    });
  return toScene(pool, acc, { basisParts: BASIS_PARTS, noise: 0 }, {});
}
/** A scene that is several tiles high. */
const tallRoom = simulatedRoom(160, 720, 15);

/** The same rows, as bands that come one after another. */
const inBands = (scene: Scene, cuts: readonly number[]): Coming => ({
  width: scene.width,
  height: scene.height,
  bands: cuts.slice(1).map((y1, i) => ({
    y0: cuts[i]!,
    y1,
    take: () =>
      Promise.resolve({
        rows: {
          ptr: scene.ptr + cuts[i]! * scene.width * 4,
          planeBytes: scene.planeBytes,
          width: scene.width,
          height: y1 - cuts[i]!,
        },
        done: () => undefined,
      }),
  })),
});

async function delivered(
  pool: Pool,
  scene: Scene,
  picture: Coming,
  recipe: Recipe,
  region: { x: number; y: number; width: number; height: number },
  coverage = false,
  pieces = new OwnPieces(),
): Promise<Delivery & { bytes: Uint8Array; covered: Uint8Array }> {
  const tone = await toneStep.run(pool, scene, toneOf(recipe));
  const finish = await finishStep.run(
    pool,
    { scene, tone, toneKey: "", exposure: 0, size: picture, noiseByWeights: false },
    recipe.finish,
    pieces,
  );
  const out = await deliverStep.run(
    pool,
    picture,
    region,
    { field: tone.field, settings: renderSettings(recipe, "srgb"), finish },
    recipe.deliver,
    coverage,
    watch,
  );
  tone.release();
  await pieces.release();
  const bytes = await pool.read(
    out.dst,
    out.width * out.height * (recipe.deliver.depth === "16" ? 6 : 3),
  );
  const covered =
    out.coverage === undefined
      ? new Uint8Array()
      : await pool.read(out.coverage, out.width * out.height);
  for (const at of [out.dst, out.coverage]) if (at !== undefined) pool.free(at);
  return { ...out, bytes, covered };
}
const whole = { x: 0, y: 0, width: W, height: H };
const tif = ["deliver.format=tif", "deliver.depth=16"].reduce(
  withSetting,
  defaultRecipe("bracket"),
);

test("a picture that comes in bands is written as the picture at once, any part of it", async () => {
  const { pool } = inProcess([]);
  const scene = await sceneOf(pool);
  for (const region of [whole, { x: 31, y: 40, width: 200, height: 103 }]) {
    const [a, b] = [
      await delivered(pool, scene, atOnce(scene), tif, region),
      await delivered(pool, scene, inBands(scene, [0, 64, 128, H]), tif, region),
    ];
    expect(a.bytes.some((v) => v > 0)).toBe(true);
    expect([b.width, b.height]).toEqual([region.width, region.height]);
    let most = 0;
    for (let i = 0; i < a.bytes.length; i += 2)
      most = Math.max(
        most,
        Math.abs(a.bytes[i]! + 256 * a.bytes[i + 1]! - b.bytes[i]! - 256 * b.bytes[i + 1]!),
      );
    // the gain field is looked up by shares of the picture, which round apart
    expect(most).toBeLessThanOrEqual(2);
  }
  scene.release();
  expect(pool.arena.inUse).toBe(0);
});

/** A finish with all that reaches over the border of a band, and a painted part. */
const finished = [
  "finish.whole.fine=0.8",
  "finish.whole.small=0.6",
  "finish.whole.medium=0.5",
  "finish.whole.darks=0.5",
  "finish.whole.sharpening=0.7",
  "finish.whole.noiseReduction=0.6",
  "finish.whole.haze=0.3",
  "finish.whole.glow=0.4",
  `finish.parts=${JSON.stringify([
    {
      id: "a",
      name: "Painted",
      on: true,
      amount: 0.9,
      inverted: false,
      feather: 0.02,
      shapes: [
        {
          type: "brush",
          joining: "add",
          points: [
            [0.2, 0.3],
            [0.7, 0.6],
          ],
          radius: 0.1,
          softness: 0.5,
          flow: 1,
          edgeAware: true,
        },
      ],
      adjustments: { exposure: 0.7, saturation: 0.4 },
    },
  ])}`,
].reduce(withSetting, tif);

test("a finish is the same in bands as at once, where neighbourhoods reach over their borders", async () => {
  const { pool } = inProcess([]);
  const scene = await sceneOf(pool, tallRoom);
  const { width, height } = scene;
  const all = { x: 0, y: 0, width, height };
  const part = { x: 20, y: 300, width: 100, height: 290 };
  for (const region of [all, part]) {
    const a = await delivered(pool, scene, atOnce(scene), finished, region);
    const plainly = await delivered(pool, scene, atOnce(scene), tif, region);
    expect(Buffer.compare(Buffer.from(a.bytes), Buffer.from(plainly.bytes))).not.toBe(0);
    for (const ends of [
      [0, 320, 640, height],
      [0, 256, height],
    ]) {
      const b = await delivered(pool, scene, inBands(scene, ends), finished, region);
      let most = 0;
      for (let i = 0; i < a.bytes.length; i += 2)
        most = Math.max(
          most,
          Math.abs(a.bytes[i]! + 256 * a.bytes[i + 1]! - b.bytes[i]! - 256 * b.bytes[i + 1]!),
        );
      // noise is measured on the first band, and the field looked up by shares
      expect(most).toBeLessThan(400);
    }
  }
  scene.release();
  expect(pool.arena.inUse).toBe(0);
});

test("what is covered goes with it, in bands as at once, and is averaged where the picture is made smaller", async () => {
  const { pool } = inProcess([]);
  const scene = await sceneOf(pool);
  const region = { x: 4, y: 6, width: 300, height: 180 };
  const a = await delivered(pool, scene, atOnce(scene), tif, region, true);
  const b = await delivered(pool, scene, inBands(scene, [0, 64, H]), tif, region, true);
  expect(Buffer.compare(Buffer.from(a.covered), Buffer.from(b.covered))).toBe(0);
  expect(new Set(a.covered)).toEqual(new Set([0, 255]));
  const share = (v: Uint8Array): number => v.reduce((s, x) => s + x, 0) / v.length / 255;
  const small = await delivered(
    pool,
    scene,
    inBands(scene, [0, 64, H]),
    withSetting(tif, "deliver.size=long 100"),
    region,
    true,
  );
  expect([small.width, small.height]).toEqual([100, 60]);
  expect(share(small.covered)).toBeCloseTo(share(a.covered), 3);
  expect(small.covered.some((v) => v > 0 && v < 255)).toBe(true);
  scene.release();
  expect(pool.arena.inUse).toBe(0);
});

test("stopped between bands, or a band that fails, leaves nothing behind", async () => {
  const { pool } = inProcess([]);
  const scene = await sceneOf(pool);
  const before = pool.arena.inUse;
  const failing: Coming = {
    ...inBands(scene, [0, 64, H]),
    bands: inBands(scene, [0, 64, H]).bands.map((b, i) =>
      i ? { ...b, take: () => Promise.reject(new Error("lost")) } : b,
    ),
  };
  const tone = await toneStep.run(pool, scene, toneOf(tif));
  const rendering = { field: tone.field, settings: renderSettings(tif, "srgb") };
  await expect(
    deliverStep.run(pool, failing, whole, rendering, tif.deliver, true, watch),
  ).rejects.toThrow("lost");
  const stopper = new AbortController();
  await expect(
    deliverStep.run(pool, inBands(scene, [0, 64, H]), whole, rendering, tif.deliver, true, {
      signal: stopper.signal,
      progress: () => stopper.abort(),
    }),
  ).rejects.toMatchObject({ code: "stopped" });
  tone.release();
  expect(pool.arena.inUse).toBe(before);
});
