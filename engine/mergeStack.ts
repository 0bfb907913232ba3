import { exposureEv } from "../core/frame/frame";
import type { Recipe } from "../core/recipe/recipe";
import { alignStep } from "../core/steps/align/step";
import { mergeKey } from "../core/steps/keys";
import type { Scene } from "../core/steps/merge/scene";
import { mergeStep, referenceOf, type MergeFindings } from "../core/steps/merge/step";
import { decodeReduced, shrinkTo, WORK_EDGE, type StackFrame, type Watch } from "../core/steps/work";
import type { Pool } from "./pool";
import { keepScene, recallScene, type Drawer } from "./sceneCache";

export interface MergedStack { scene: Scene; findings: MergeFindings; shrink: number }

/**
 * The stack merged at the size one works at: from the drawer when it was made before, else read, aligned and merged,
 * and kept. @param frames  those that take part
 */
export async function mergeAtWorkSize(pool: Pool, frames: readonly StackFrame[], recipe: Recipe, { progress, signal }: Watch, drawer?: Drawer): Promise<MergedStack> {
  const shrink = shrinkTo(frames[0]!.info, WORK_EDGE), key = mergeKey(frames, recipe, shrink), on = signal ? { signal } : {};
  const kept = drawer && (await recallScene(pool, drawer, key, frames[0]!.info, shrink));
  if (kept) return { ...kept, shrink };
  const reference = referenceOf(frames, recipe.merge);
  const held = await decodeReduced(pool, frames, shrink, { progress: (share, doing) => progress(share * 0.5, doing), ...on });
  let scene: Scene, aligned;
  try {
    progress(0.55, "Aligning");
    aligned = await alignStep.run(pool, { frames, held, reference, deghost: recipe.merge.deghost === "auto", shrink }, recipe.align, on);
    progress(0.75, "Merging");
    scene = await mergeStep.run(pool, { frames, aligned, reference, shrink, held }, recipe.merge, { progress: (s, doing) => progress(0.75 + s * 0.25, doing), ...on });
  } finally {
    await pool.idle();
    for (const h of held) pool.give(h.ptr);
  }
  try {
    const byTime = [...frames].sort((a, b) => (exposureEv(a.info.exif) ?? 0) - (exposureEv(b.info.exif) ?? 0));
    const [statistics, darkest, brightest] = await Promise.all([
      pool.run("statistics", { grid: scene.grid }, { scratch: 1 << 18, ...on }),
      ...[byTime[0]!, byTime.at(-1)!].map((f) => pool.run("clipping", { source: f.source, shrink: 8 }, on)),
    ]) as [MergeFindings["statistics"], { bright: number; dark: number }, { bright: number; dark: number }];
    const findings: MergeFindings = { aligned, statistics, clippedBright: darkest.bright, clippedDark: brightest.dark };
    if (drawer) await keepScene(pool, drawer, key, scene, findings);
    return { scene, findings, shrink };
  } catch (e) {
    await pool.idle();
    scene.release();
    throw e;
  }
}
