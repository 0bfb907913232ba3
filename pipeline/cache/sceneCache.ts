import { sizeAt } from "../step";
import { planeBytesOf } from "../../core/raster/accumulator";
import { gridSize } from "../../core/tone/toneGrid";
import { basisBytes } from "../../core/tone/toneBasis";
import type { MergeFindings } from "../merge/input";
import { addressesOf, plain, sceneOf, type Scene } from "../merge/scene";
import { TaskScope } from "../../runtime/taskScope";
import type { FrameInfo } from "../../core/frame/frame";
import type { Threads } from "../pool";
import { type ResultCache } from "../../runtime/resultCache";

/**
 * Takes a merged scene and what was found about it out of the result cache, with its source map if
 * it was kept with one (`mapped`). What is damaged there is dropped.
 */
export async function recallScene(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  info: FrameInfo,
  downscale: number,
  mapped: boolean,
): Promise<{ scene: Scene; findings: MergeFindings } | undefined> {
  const source = await resultCache.get(key).catch(() => undefined);
  if (!source) return undefined;
  await using scope = new TaskScope(pool);
  const { width, height } = sizeAt(info, downscale);
  const planeBytes = planeBytesOf(width, height);
  const size = gridSize(width, height);
  const ptr = scope.allocate(planeBytes * 4 + 64);
  const analysis = scope.allocate(size.width * size.height * 4 + basisBytes(size));
  const sources = mapped ? scope.allocate(width * height) : undefined;
  const findings = await scope
    .run("unpack", {
      source,
      parts: { ptr, planeBytes, width, height, grid: size, analysis, sources },
    })
    .catch(() => undefined);
  if (!findings) {
    await resultCache.drop(key).catch(() => undefined);
    return undefined;
  }
  const scene = sceneOf(pool, {
    ptr,
    planeBytes,
    width,
    height,
    grid: { ...size, ptr: analysis, floorEv: findings.statistics.floorEv },
    basis: analysis + size.width * size.height * 4,
    ...(sources === undefined ? {} : { sources }),
  });
  scope.keep(...addressesOf(scene));
  return { scene, findings };
}

/** Only what was found: enough to merge again at another size without aligning. */
export async function recallFindings(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
): Promise<MergeFindings | undefined> {
  const source = await resultCache.get(key).catch(() => undefined);
  return source && pool.run("unpack", { source }).catch(() => undefined);
}

/** Keeps a scene for later. That the result cache is full or closed is no fault of the merge. */
export async function keepScene(
  pool: Threads,
  resultCache: ResultCache,
  key: string,
  scene: Scene,
  findings: MergeFindings,
): Promise<void> {
  try {
    await resultCache.put(
      key,
      await pool.run("pack", {
        scene: {
          ...plain(scene),
          grid: { width: scene.grid.width, height: scene.grid.height },
          analysis: scene.grid.ptr,
          sources: scene.sources,
        },
        findings,
      }),
    );
  } catch {
    /* made again next time */
  }
}
