import * as v from "valibot";
import { planeBytesOf } from "../../core/raster/accumulator";
import type { Layout } from "../panorama/layout";
import type { Located } from "../panorama/locateFrames";
import { addressesOf, plain, sceneOf, type Scene } from "../merge/scene";
import { TaskScope } from "../../runtime/taskScope";
import { SuspectSchema } from "../../core/suspects/suspect";
import { basisBytes } from "../../core/tone/toneBasis";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import { gridSize } from "../../core/tone/toneGrid";
import { StatisticsSchema } from "./packScene";
import type { Threads } from "../pool";
import type { ResultCache } from "../../runtime/resultCache";

/** A panorama as it is worked on. */
export interface JoinedPanorama {
  scene: Scene;
  layout: Layout;
  statistics: SceneStatistics;
  /** share of the picture from each frame, and last from none */
  shares: number[];
  downscale: number;
}

const Numbers = v.array(v.number());
const CameraSchema = v.looseObject({
  rotation: v.pipe(Numbers, v.length(9)),
  focalPx: v.number(),
  distortion: v.pipe(Numbers, v.length(3)),
  width: v.number(),
  height: v.number(),
});
const GeometryEntries = {
  cameras: v.array(v.union([CameraSchema, v.undefined()])),
  rmsPx: Numbers,
  leftOut: Numbers,
  pairs: v.array(
    v.looseObject({ a: v.number(), b: v.number(), points: v.array(Numbers), errors: Numbers }),
  ),
  warnings: v.array(v.object({ code: v.string(), message: v.string() })),
};
const PlacingSchema = v.looseObject({
  ...GeometryEntries,
  duplicates: v.array(v.looseObject({ frame: v.number(), of: v.number() })),
  light: v.looseObject({ gains: v.array(Numbers), vignetting: Numbers }),
  canvas: v.looseObject({
    projection: v.string(),
    pxPerRadian: v.number(),
    centreX: v.number(),
    centreY: v.number(),
    width: v.number(),
    height: v.number(),
    closed: v.boolean(),
  }),
  labels: v.object({ width: v.number(), height: v.number(), of: v.instance(Uint8Array) }),
  suspects: v.array(SuspectSchema),
  turned: Numbers,
  view: v.looseObject({}),
});
const JoinedSchema = v.object({
  width: v.number(),
  height: v.number(),
  downscale: v.number(),
  statistics: StatisticsSchema,
  shares: Numbers,
  layout: PlacingSchema,
});
const LocatedSchema = v.object({
  geometry: v.looseObject(GeometryEntries),
  frames: v.array(v.looseObject({ width: v.number(), height: v.number() })),
  small: v.array(
    v.object({
      width: v.number(),
      height: v.number(),
      rgb: v.instance(Float32Array),
      scale: v.number(),
    }),
  ),
  detail: Numbers,
});

/**
 * The record under a key, checked; undefined where there is none, or it is damaged or of another
 * version, and then it goes.
 */
async function recall<T>(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  schema: v.GenericSchema<unknown, T>,
): Promise<T | undefined> {
  const source = await resultCache.get(key).catch(() => undefined);
  if (!source) return undefined;
  const found = v.safeParse(
    schema,
    await pool.run("unpackRecord", { source }, { priority: "screen" }).catch(() => undefined),
  );
  if (found.success) return found.output;
  await resultCache.drop(key).catch(() => undefined);
  return undefined;
}

/** That the result cache is full or closed is no fault of the merge. */
async function keep(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  value: object,
): Promise<void> {
  try {
    await resultCache.put(key, await pool.run("packRecord", { value }));
  } catch {
    /* made again next time */
  }
}

const pixelsKey = (key: string): string => `pixels of ${key}`;

/**
 * How a panorama's frames were found to lie, from the result cache: another projection matches
 * nothing again.
 */
export const recallLocated = (
  pool: Threads,
  resultCache: ResultCache,
  key: string,
): Promise<Located | undefined> =>
  recall(pool, resultCache, key, LocatedSchema) as Promise<Located | undefined>;
/** Keeps what was found of a panorama's frames in the result cache. */
export const keepLocated = (
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  located: Located,
): Promise<void> => keep(pool, resultCache, key, located);

/**
 * A joined panorama out of the result cache, its pixels in the workers' memory; the scene is to be
 * released.
 */
export async function recallJoined(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
): Promise<JoinedPanorama | undefined> {
  const head = await recall(pool, resultCache, key, JoinedSchema);
  const source = head && (await resultCache.get(pixelsKey(key)).catch(() => undefined));
  if (!head || !source) return undefined;
  const { width, height, downscale, statistics, shares } = head;
  const planeBytes = planeBytesOf(width, height);
  const size = gridSize(width, height);
  const cells = size.width * size.height * 4;
  await using scope = new TaskScope(pool);
  const ptr = scope.allocate(planeBytes * 4 + 64);
  const analysis = scope.allocate(cells + basisBytes(size));
  const sources = scope.allocate(width * height);
  const found = await scope
    .run(
      "unpackPixels",
      {
        source,
        parts: [
          [ptr, planeBytes * 4],
          [analysis, cells + basisBytes(size)],
          [sources, width * height],
        ],
      },
      { priority: "screen" },
    )
    .catch(() => false);
  if (!found) {
    await resultCache.drop(key).catch(() => undefined);
    return undefined;
  }
  const scene = sceneOf(pool, {
    ptr,
    planeBytes,
    width,
    height,
    grid: { ...size, ptr: analysis, floorEv: statistics.floorEv },
    basis: analysis + cells,
    sources,
  });
  scope.keep(...addressesOf(scene));
  return { scene, layout: head.layout as unknown as Layout, statistics, shares, downscale };
}

/** Keeps a joined panorama, so that its stack opens with its picture. */
export async function keepJoined(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  { scene, layout, statistics, shares, downscale }: JoinedPanorama,
): Promise<void> {
  const { width, height, planeBytes, ptr } = plain(scene);
  const cells = scene.grid.width * scene.grid.height * 4;
  try {
    await resultCache.put(
      pixelsKey(key),
      await pool.run("packPixels", {
        parts: [
          [ptr, planeBytes * 4],
          [scene.grid.ptr, cells + basisBytes(scene.grid)],
          [scene.sources!, width * height],
        ],
      }),
    );
  } catch {
    return;
  }
  await keep(pool, resultCache, key, { width, height, downscale, statistics, shares, layout });
}
