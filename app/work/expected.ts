import type { Recipe } from "../../pipeline/recipe/recipe";
import { framesStep } from "../../pipeline/frames/step";
import { withPreparation } from "../../pipeline/prepare/step";
import type { StackFrame } from "../../pipeline/work";
import { deliveryBytes } from "../../pipeline/memory";
import { expectedMs, readPace, type Task } from "./pace";
import { pool } from "./pool";

type Size = { width: number; height: number };

/** A stack's frames as they are read for a recipe. */
const taking = (all: readonly StackFrame[], { frames, prepare }: Recipe): StackFrame[] =>
  framesStep.run(withPreparation(all, prepare), frames);

/** A delivery as what decides how long it takes. @param out  px of the file */
export function taskOf(all: readonly StackFrame[], recipe: Recipe, out: Size): Task {
  const frames = taking(all, recipe);
  return {
    kind: recipe.kind,
    method: recipe.merge.method,
    format: recipe.deliver.format,
    frames: frames.length,
    framePx: frames.reduce((s, f) => s + f.info.width * f.info.height, 0),
    prepared: frames.some((f) => f.preparation),
    outPx: out.width * out.height,
  };
}

/**
 * What a delivery will take at most of the memory, bytes, and about how long, ms.
 *
 * @param canvas  of a panorama whose frames have their places
 */
export const expectedOf = (
  all: readonly StackFrame[],
  recipe: Recipe,
  out: Size,
  canvas: Size | undefined,
): { bytes: number; ms: number } => ({
  bytes: deliveryBytes(pool().budget, taking(all, recipe), recipe, canvas),
  ms: expectedMs(taskOf(all, recipe, out), readPace()),
});
