import { TaskScope } from "../../runtime/taskScope";
import { framesStep } from "../frames/step";
import type { Threads } from "../pool";
import type { Tasks } from "../worker/tasks";
import { withPreparation } from "../prepare/step";
import type { PanoramaRecipe, Recipe } from "../recipe/recipe";
import { downscaleTo, WORK_EDGE, type StackFrame } from "../work";
import { HeldFrames } from "./heldFrames";
import { layOut } from "./joinedFrames";
import { SCENE_MAKERS } from "./sceneMakers";
import { addressesOf } from "../merge/scene";
import type { Merged, Run, RunOptions, SceneMaker } from "./run";

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
  const caller = new TaskScope(threads, options.priority);
  await using scope = new TaskScope<Tasks>(caller);
  const run = runOf(caller, scope, stack, recipe, options);
  const maker = makerOf(recipe);
  try {
    const merged = (await maker.recall(run)) ?? (await made(maker, run));
    scope.keep(...addressesOf(merged.scene));
    return merged;
  } finally {
    await scope.idle();
    options.held?.trim();
  }
}

/** How the frames of a recipe become one scene: its kind's way, which takes recipes of that kind. */
const makerOf = (recipe: Recipe): SceneMaker => SCENE_MAKERS[recipe.kind] as SceneMaker;

/** One run as its parts see it. @param scope  for the run's own tasks and memory */
function runOf<R extends Recipe>(
  caller: Threads,
  scope: Threads,
  stack: readonly StackFrame[],
  recipe: R,
  options: RunOptions,
): Run<R> {
  const frames = framesOf(stack, recipe);
  return {
    ...options,
    threads: scope,
    caller,
    frames,
    recipe,
    held: options.held ?? new HeldFrames(scope),
    heldForRun: !options.held,
    workDownscale: downscaleTo(frames[0]!.info, WORK_EDGE),
    now: options.now ?? (() => 0),
  };
}

/**
 * Finds where a panorama's frames lie, without joining them; a later run takes it from where places
 * are kept.
 *
 * @returns the size of its canvas, px
 * @throws RhizomeError what reading and placing throw; then nothing of it is left in memory
 */
export async function locatePanorama(
  threads: Threads,
  stack: readonly StackFrame[],
  recipe: PanoramaRecipe,
  options: Omit<RunOptions, "scale">,
): Promise<{ width: number; height: number }> {
  const caller = new TaskScope(threads, options.priority);
  await using scope = new TaskScope<Tasks>(caller);
  const run = runOf(caller, scope, stack, recipe, { ...options, scale: "full" });
  try {
    const { layout } = await layOut(run, () => undefined);
    return { width: layout.canvas.width, height: layout.canvas.height };
  } finally {
    await scope.idle();
  }
}

/** Makes a merge and keeps it for later runs. */
async function made(maker: SceneMaker, run: Run): Promise<Merged> {
  const merged = await maker.make(run);
  try {
    await maker.keep(run, merged);
  } catch (e) {
    // measuring goes on for the caller; and what is common to its bands is not the run's
    await run.caller.idle();
    merged.scene.release();
    throw e;
  }
  return merged;
}

/** The least reduction from full size at which a merge fits in memory, up to one that is there. */
export function fittingDownscale(
  budget: number,
  merged: Merged,
  recipe: Recipe,
  shareOfBudget = 0.75,
): number {
  const maker = makerOf(recipe);
  let by = 1;
  while (by < merged.downscale && maker.bytesAt(merged, recipe, by) > shareOfBudget * budget)
    by *= 2;
  return Math.min(by, merged.downscale);
}
