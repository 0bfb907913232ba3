import type { Accumulator } from "../../core/raster/accumulator";
import { project } from "../../core/math/matrix3";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import { inProcess } from "../../tests/inProcess";
import { edgesStep } from "../edges/step";
import { keptRegion, emptyIn } from "../edges/keptRegion";
import { sceneKey } from "../keys";
import { mergeInBands } from "../merge/bands";
import { mergeStep, type MergeSettings } from "../merge/step";
import { defaultRecipe } from "../recipe/recipe";
import type { Aligned } from "../align/step";
import { straightenedPlaces } from "./straightenedPlaces";
import { straighteningOf, straightenWarnings } from "./straightening";

const W = 320;
const H = 256;
const edges = { ...edgesStep.settings.defaults, mode: "keep" as const, pitch: 7, roll: 4 };
const scene = simulatedRoom(W, H, 3);
/** Frames of one room, by their exposures; and the threads that have them. */
const stackOf = (evs: readonly number[]) =>
  inProcess(
    evs.map((ev, i) => ({
      name: `f${i}.png`,
      samples: takeFrame(scene, {
        width: W,
        height: H,
        ev,
        toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
        seed: 70 + i,
        response: srgbResponse,
        gain: 15000,
        read: 8e-4,
      }) as Uint8Array,
      width: W,
      height: H,
      exif: { exposureTime: 0.01 * 2 ** ev, focalLength35: 20 },
    })),
  );
const bracket = stackOf([0, 2, -2]);
// a focus run is equally exposed
const run = stackOf([0, 0, 0]);
const { info } = bracket.frames[0]!;
const straightening = straighteningOf(edges, info, undefined)!;
const still: Aligned = {
  reference: 0,
  frames: [0, 2, -2].map((ev) => ({
    fromReference: [1, 0, 0, 0, 1, 0, 0, 0, 1],
    ev,
    gainEv: 0,
    residualPx: 0,
    movedPx: 0,
    used: true,
  })),
};
const turned: Aligned = { ...still, straightening };
const watch = { progress: () => undefined };
const by = (method: MergeSettings["method"]): MergeSettings => ({
  ...mergeStep.settings.defaults,
  method,
});
const input = {
  aligned: straightenedPlaces(turned, info),
  reference: 0,
  fromPicture: straightening.fromPicture,
  downscale: 1,
  patches: [],
};

const planesOf = async (pool: typeof bracket.pool, acc: Accumulator): Promise<Float32Array[]> =>
  Promise.all(
    [0, 1, 2, 3].map(async (c) => {
      const bytes = await pool.read(acc.ptr + c * acc.planeBytes, acc.width * acc.height * 4);
      return new Float32Array(bytes.slice().buffer);
    }),
  );

describe.each(["radiance", "fusion", "pyramid"] as const)("a straightened %s", (method) => {
  const { pool, frames } = method === "pyramid" ? run : bracket;
  test("shows at every place what the picture that was not turned shows there", async () => {
    const plain = await mergeStep.run(
      pool,
      { frames, aligned: still, reference: 0, downscale: 1, patches: [] },
      by(method),
      watch,
    );
    const before = await planesOf(pool, plain);
    plain.release();
    const scene = await mergeStep.run(pool, { ...input, frames }, by(method), watch);
    const after = await planesOf(pool, scene);
    scene.release();
    let off = 0;
    let all = 0;
    for (let y = 2; y < H - 2; y++)
      for (let x = 2; x < W - 2; x++) {
        const [u, v] = project(straightening.fromPicture, x + 0.5, y + 0.5);
        const i = y * W + x;
        if (u < 0 || v < 0 || u >= W || v >= H) {
          if (u < -1 || v < -1 || u >= W + 1 || v >= H + 1) expect(after[3]![i]).toBe(0);
          continue;
        }
        if (u < 4 || v < 4 || u > W - 4 || v > H - 4) continue;
        expect(after[3]![i]).toBeGreaterThan(0);
        const [x0, y0] = [Math.floor(u - 0.5), Math.floor(v - 0.5)];
        const near = [0, 1].flatMap((b) => [0, 1].map((a) => before[1]![(y0 + b) * W + x0 + a]!));
        const [lo, hi] = [Math.min(...near), Math.max(...near)];
        const value = after[1]![i]!;
        const least = 1e-3;
        off += Math.max(0, Math.log2((lo + least) / (value + least)));
        off += Math.max(0, Math.log2((value + least) / (hi + least)));
        all++;
      }
    // a merge of turned frames is not the turned merge to the bit, but nearly
    expect(off / all).toBeLessThan(0.03);
    expect(all).toBeGreaterThan(0.7 * W * H);
  });

  test("is full where it is filled, and what was covered stays", async () => {
    const plain = await mergeStep.run(pool, { ...input, frames }, by(method), watch);
    const before = await planesOf(pool, plain);
    plain.release();
    const filled = await mergeStep.run(pool, { ...input, frames, fill: true }, by(method), watch);
    const after = await planesOf(pool, filled);
    filled.release();
    expect(before[3]!.some((weight) => weight === 0)).toBe(true);
    expect(after[3]!.every((weight) => weight > 0)).toBe(true);
    expect(after.every((plane) => plane.every(Number.isFinite))).toBe(true);
    const middle = (H >> 1) * W + (W >> 1);
    for (let c = 0; c < 4; c++) expect(after[c]![middle]).toBe(before[c]![middle]);
    // it is about as bright as what it is made of
    const empty = [...before[3]!.keys()].filter((i) => before[3]![i] === 0);
    const mean = (plane: Float32Array, places: Iterable<number>): number => {
      let [sum, count] = [0, 0];
      for (const i of places) [sum, count] = [sum + plane[i]!, count + 1];
      return sum / count;
    };
    const lit = mean(before[1]!, before[3]!.keys()) / 20;
    expect(mean(after[1]!, empty)).toBeGreaterThan(lit);
  });

  test("in bands has the bytes of the whole", async () => {
    const scene = await mergeStep.run(pool, { ...input, frames }, by(method), watch);
    const whole = await planesOf(pool, scene);
    scene.release();
    const { bands, release } = await mergeInBands(
      pool,
      { ...input, frames },
      by(method),
      128,
      undefined,
      watch,
    );
    for (const band of bands) {
      const { rows, done } = await band.take();
      const own = await planesOf(pool, rows);
      for (let c = 0; c < 3; c++)
        expect(own[c]).toEqual(whole[c]!.subarray(band.y0 * W, band.y1 * W));
      done();
    }
    release();
  });
});

test("what is kept is full, and what is left empty is told", () => {
  const placed = { aligned: turned, size: { width: W, height: H } };
  const crop = { ...edges, mode: "crop" as const };
  const region = keptRegion(crop, placed);
  expect(region.width * region.height).toBeLessThan(W * H);
  expect(region.width * region.height).toBeGreaterThan(0.6 * W * H);
  expect(emptyIn(region, crop, placed)).toBe(0);
  const whole = keptRegion(edges, placed);
  expect(whole).toEqual({ x: 0, y: 0, width: W, height: H });
  expect(emptyIn(whole, edges, placed)).toBeGreaterThan(0.01);
});

test("a merge depends on how it is straightened, and on nothing of that while it is not", () => {
  const recipe = defaultRecipe("bracket");
  const keyOf = (part: Partial<typeof edges>): string =>
    sceneKey(bracket.frames, { ...recipe, edges: { ...recipe.edges, ...part } }, 1);
  expect(keyOf({ focal: 50, extent: "whole" })).toBe(keyOf({}));
  const keys = [
    keyOf({}),
    keyOf({ roll: 1 }),
    keyOf({ roll: 1, focal: 50 }),
    keyOf({ upright: "auto" }),
    keyOf({ upright: 0.5 }),
    keyOf({ guides: [{ kind: "level", from: [0, 0.5], to: [1, 0.6] }] }),
  ];
  expect(new Set(keys).size).toBe(keys.length);
});

test("edges that say nothing leave the picture as it is, and that is said", () => {
  const asked = { ...edges, pitch: 0, roll: 0, upright: "auto" as const };
  const unknown = straighteningOf(asked, info, undefined)!;
  expect(unknown.fromPicture).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
  expect(straightenWarnings(asked, unknown)).toHaveLength(1);
  const found = { pitch: 24, roll: 2, pitchSigma: 0.1, rollSigma: 0.1, edges: 30 };
  const auto = straighteningOf(asked, info, found)!;
  expect(straightenWarnings(asked, auto)).toEqual([]);
  // it never turns far by itself, and wholly where that is wanted
  expect(auto.corrected!.pitch).toBeLessThan(found.pitch);
  expect(straighteningOf({ ...asked, upright: "full" }, info, found)!.corrected).toEqual({
    pitch: 24,
    roll: 2,
  });
  expect(straighteningOf({ ...asked, upright: 0.5 }, info, found)!.corrected!.roll).toBe(1);
});
