import { defaultRecipe, type Section } from "../recipe/recipe";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep } from "../../simulate/sweep";
import { inProcess } from "../../tests/inProcess";
import type { ResultCache } from "../../runtime/resultCache";
import { runPipeline } from "./runPipeline";

const W = 360;
const H = 240;
const focalPx = 330;
const watch = { progress: () => undefined };
const taken = simulateSweep(
  { ...simulatedRoom(1000, 560, 21), piece: { across: 150, down: 84 } },
  {
    directions: [
      [-22, 0],
      [0, 0],
      [22, 0],
    ],
    width: W,
    height: H,
    focalPx,
    seed: 4,
  },
);
const frames = taken.map((f, i) => ({
  name: `p${i}.png`,
  samples: f.samples,
  width: W,
  height: H,
  exif: { focalLength35: (focalPx / W) * 36 },
}));

/** A resultCache in memory. */
function memoryResultCache(): { resultCache: ResultCache; files: Map<string, Uint8Array> } {
  const files = new Map<string, Uint8Array>();
  return {
    files,
    resultCache: {
      get: (key) => Promise.resolve(files.has(key) ? { name: key } : undefined),
      async put(key, packed) {
        if (!(packed instanceof Blob)) files.set(key, Buffer.concat(packed));
      },
      async drop(key) {
        files.delete(key);
      },
    },
  };
}

async function join(
  { resultCache, files }: ReturnType<typeof memoryResultCache>,
  change: Partial<Section<"panorama">> = {},
) {
  const here = inProcess(frames, undefined, files);
  const recipe = defaultRecipe("panorama");
  const joined = await runPipeline(
    here.pool,
    here.frames,
    { ...recipe, panorama: { ...recipe.panorama, ...change } },
    { ...watch, scale: "work", sources: true, keptIn: resultCache, placesIn: resultCache },
  );
  const { scene, layout } = joined;
  const { statistics, shares } = await joined.findings();
  const planes = await here.pool.read(scene.ptr, scene.planeBytes * 3);
  const sources = await here.pool.read(scene.sources!, scene.width * scene.height);
  const known = {
    width: scene.width,
    height: scene.height,
    grid: { width: scene.grid.width, height: scene.grid.height, floorEv: scene.grid.floorEv },
    layout: layout!,
    statistics,
    shares,
    downscale: joined.downscale,
  };
  return { known, planes, sources, reads: here.reads() };
}

test("a panorama that was kept is there again, every byte of it, without a frame being read", async () => {
  const kept = memoryResultCache();
  const first = await join(kept);
  const again = await join(kept);
  expect(first.reads).toBeGreaterThan(0);
  expect(again.reads).toBe(0);
  expect(again.known).toEqual(first.known);
  expect(Buffer.compare(again.planes, first.planes)).toBe(0);
  expect(Buffer.compare(again.sources, first.sources)).toBe(0);
}, 60000);

test("another projection of the same frames is another picture, of the same places", async () => {
  const kept = memoryResultCache();
  const first = await join(kept);
  const other = await join(kept, { projection: "mercator" });
  expect(other.known.layout.canvas.projection).toBe("mercator");
  expect(other.known.layout.rmsPx).toEqual(first.known.layout.rmsPx);
  expect(other.reads).toBeGreaterThan(0);
}, 60000);

test("what is damaged in the result cache is made anew, and dropped", async () => {
  const kept = memoryResultCache();
  const first = await join(kept);
  for (const [key, bytes] of kept.files) kept.files.set(key, bytes.subarray(0, bytes.length >> 1));
  const again = await join(kept);
  expect(again.reads).toBeGreaterThan(0);
  expect(again.known).toEqual(first.known);
}, 60000);
