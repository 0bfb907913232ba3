import { TaskScope } from "../../runtime/taskScope";
import { framesStep } from "../frames/step";
import type { Threads } from "../pool";
import { withPreparation } from "../prepare/step";
import type { Recipe } from "../recipe/recipe";
import { downscaleTo, WORK_EDGE, type StackFrame } from "../work";
import { HeldFrames } from "./heldFrames";
import { SCENE_MAKERS } from "./sceneMakers";
import type { Merged, Run, RunOptions } from "./run";

/** The stack's frames that take part, as the recipe has them read. @throws RhizomeError `no-frames` */
export const framesOf = <F extends StackFrame>(
  stack: readonly F[],
  recipe: Pick<Recipe, "frames" | "prepare">,
): F[] => framesStep.run(withPreparation(stack, recipe.prepare), recipe.frames) as F[];

/**
 * The way of a stack from its frames to one merged scene, the only place where these steps follow
 * each other: frames, prepare, align or panorama, merge with ghosts. What an opened stack shows, its
 * full size, a delivery in one piece or in bands and the command line are this run at another scale.
 * Toning and what comes after it take the scene and never merge again.
 *
 * @param stack  all its frames
 * @returns the merged scene, to be released by the caller
 * @throws RhizomeError what reading, placing and merging throw; then nothing of the run is left in
 *   memory, and no thread works on it
 */
export async function runPipeline(
  threads: Threads,
  stack: readonly StackFrame[],
  recipe: Recipe,
  options: RunOptions,
): Promise<Merged> {
  const scope = new TaskScope(threads, options.priority);
  const frames = framesOf(stack, recipe);
  const held = options.held ?? new HeldFrames(threads);
  const run: Run = {
    ...options,
    threads: scope,
    frames,
    recipe,
    held,
    heldForRun: !options.held,
    workDownscale: downscaleTo(frames[0]!.info, WORK_EDGE),
    now: options.now ?? (() => 0),
  };
  const maker = SCENE_MAKERS[recipe.kind];
  let merged: Merged | undefined;
  try {
    const kept = await maker.recall(run);
    if (kept) return kept;
    merged = await maker.make(run);
    await maker.keep(run, merged);
    return merged;
  } catch (e) {
    await scope.idle();
    merged?.scene.release();
    throw e;
  } finally {
    await scope.idle();
    if (run.heldForRun) held.drop();
    else held.trim();
  }
}

/** The least reduction from full size at which a merge fits in memory, up to one that is there. */
export function fittingDownscale(
  budget: number,
  merged: Merged,
  recipe: Recipe,
  shareOfBudget = 0.75,
): number {
  const { bytesAt } = SCENE_MAKERS[recipe.kind];
  let by = 1;
  while (by < merged.downscale && bytesAt(merged, recipe, by) > shareOfBudget * budget) by *= 2;
  return Math.min(by, merged.downscale);
}
