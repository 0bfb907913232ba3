import type { Recipe } from "../../pipeline/recipe/recipe";
import { framesOf } from "../../pipeline/run/runPipeline";
import type { StackFrame } from "../../pipeline/work";
import { deliveryBytes } from "../../pipeline/memory";
import { expectedMs, readPace, type Task } from "./pace";
import { pool } from "./pool";

type Size = { width: number; height: number };

/** A delivery as what decides how long it takes. @param out  px of the file */
export function taskOf(all: readonly StackFrame[], recipe: Recipe, out: Size): Task {
  const frames = framesOf(all, recipe);
  return {
    kind: recipe.kind,
    method: recipe.kind === "panorama" ? "radiance" : recipe.merge.method,
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
  bytes: deliveryBytes(pool().budget, framesOf(all, recipe), recipe, canvas),
  ms: expectedMs(taskOf(all, recipe, out), readPace()),
});
