import { sharpScratch } from "../core/focus/sharpMap";
import { exposureEv } from "../core/frame/frame";
import type { Recipe } from "./recipe/recipe";
import type { Aligned } from "./align/step";
import { mergeKey } from "./keys";
import { plain, type Scene } from "./merge/scene";
import type { MergeFindings } from "./merge/input";
import { mergeStep } from "./merge/step";
import { downscaleTo, WORK_EDGE, type StackFrame } from "./work";
import { type Watch } from "../runtime/work";
import { movedSuspects } from "../core/suspects/focusSuspects";
import { ranked, type Suspect } from "../core/suspects/suspect";
import type { Threads } from "./pool";
import { keepScene, recallScene } from "./cache/sceneCache";
import type { ResultCache } from "../runtime/resultCache";
import type { WorkSet } from "./workSet";
import { TaskScope } from "../runtime/taskScope";
import { decodingAllowance } from "./allowance";

export interface MergedStack {
  scene: Scene;
  findings: MergeFindings;
  downscale: number;
}

/**
 * The stack merged at the size one works at: from the result cache when it was made before, else
 * read, aligned and merged, and kept. @param frames  those that take part
 */
export async function mergeAtWorkSize(
  threads: Threads,
  set: WorkSet,
  frames: readonly StackFrame[],
  recipe: Recipe,
  { progress, signal }: Watch,
  resultCache?: ResultCache,
): Promise<MergedStack> {
  const pool = new TaskScope(threads);
  const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
  const key = mergeKey(frames, recipe, downscale);
  const on = signal ? { signal } : {};
  const kept =
    resultCache && (await recallScene(pool, resultCache, key, frames[0]!.info, downscale, true));
  if (kept) return { ...kept, downscale };
  let scene: Scene;
  let aligned: Aligned;
  try {
    const found = await set.align(frames, recipe, {
      progress: (share, doing) => progress(share * 0.7, doing),
      ...on,
    });
    aligned = found.aligned;
    scene = await mergeStep.run(
      pool,
      {
        frames,
        aligned,
        reference: aligned.reference,
        downscale,
        loaded: found.loaded,
        patches: recipe.ghosts.patches,
        response: aligned.response,
        sources: true,
      },
      recipe.merge,
      { progress: (s, doing) => progress(0.7 + s * 0.3, doing), ...on },
    );
  } finally {
    await pool.idle();
    set.trim();
  }
  try {
    const { sharp } = aligned;
    const findings: MergeFindings = {
      ...(await findingsOf(pool, scene, frames, aligned, recipe, downscale, on)),
      ...(sharp
        ? {
            sharp: await pool.run(
              "sharpShare",
              { acc: plain(scene), sharp },
              { scratch: sharpScratch(scene.width * scene.height), ...on },
            ),
          }
        : {}),
    };
    if (resultCache) await keepScene(pool, resultCache, key, scene, findings);
    return { scene, findings, downscale };
  } catch (e) {
    await pool.idle();
    scene.release();
    throw e;
  }
}

/** What there is to tell about a merged scene. */
export async function findingsOf(
  pool: Threads,
  scene: Scene,
  frames: readonly StackFrame[],
  aligned: Aligned,
  recipe: Recipe,
  downscale: number,
  on: { signal?: AbortSignal },
): Promise<MergeFindings> {
  const byTime = [...frames].sort(
    (a, b) => (exposureEv(a.info.exif) ?? 0) - (exposureEv(b.info.exif) ?? 0),
  );
  const [statistics, darkest, brightest, suspects, shares] = (await Promise.all([
    pool.run("statistics", { grid: scene.grid }, { scratch: 1 << 18, ...on }),
    ...[byTime[0]!, byTime.at(-1)!].map((f) =>
      pool.run(
        "clipping",
        { source: f.source, downscale: 8 },
        { subject: f.source.name, allowanceMs: decodingAllowance(f.info), ...on },
      ),
    ),
    findSuspects(pool, scene, aligned, recipe, downscale, on),
    scene.sources === undefined
      ? []
      : pool.run(
          "sourceShares",
          { sources: scene.sources, n: scene.width * scene.height, frames: frames.length },
          on,
        ),
  ])) as [
    MergeFindings["statistics"],
    { bright: number; dark: number },
    { bright: number; dark: number },
    Suspect[],
    number[],
  ];
  return {
    aligned,
    statistics,
    clippedBright: darkest.bright,
    clippedDark: brightest.dark,
    suspects,
    shares,
    ...(scene.depth ? { depth: scene.depth } : {}),
  };
}

/** Places of the merge itself that deserve a look; a fusion keeps no weights to judge by. */
export async function findSuspects(
  pool: Threads,
  scene: Scene,
  { frames, order, gaps, sharp, moved = [], displaced = [] }: Aligned,
  recipe: Recipe,
  downscale: number,
  on: { signal?: AbortSignal },
): Promise<Suspect[]> {
  if (recipe.kind === "focus") {
    const { sources, width, height } = scene;
    const found =
      order && sources !== undefined
        ? await Promise.all([
            gaps?.length && sharp
              ? pool.run(
                  "softBands",
                  { sources, width, height, downscale, run: { order, gaps, sharp } },
                  on,
                )
              : [],
            pool.run("fusionHalos", { acc: plain(scene), sources, order, downscale }, on),
            displaced.length
              ? pool.run(
                  "doubledEdges",
                  { sources, width, height, downscale, displaced, moved },
                  on,
                )
              : [],
          ])
        : [];
    return ranked([...found.flat(), ...movedSuspects(moved)]);
  }
  if (recipe.merge.method !== "radiance") return [];
  return pool.run(
    "mergeSuspects",
    {
      acc: plain(scene),
      frames: frames.map(({ ghosts, differs }) => ({ ghosts, differs })),
      downscale,
    },
    on,
  );
}
