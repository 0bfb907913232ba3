import { referenceOf } from "../../pipeline/merge/step";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Frame } from "../store/records";
import { stackFrames } from "../work/stackWork";

/** Which of a stack's frames is the reference, as its recipe says; a panorama has none. */
export function referencePlace(
  frames: readonly Frame[],
  recipe: Recipe | undefined,
): number | undefined {
  if (!recipe || recipe.kind === "panorama") return undefined;
  const used = frames.filter((frame) => !recipe.frames.leftOut.includes(frame.id));
  const { reference } = recipe.merge;
  if (!used.length || (reference !== "auto" && reference >= used.length)) return undefined;
  return frames.indexOf(used[referenceOf(stackFrames(used, new Map()), recipe.merge)]!);
}
