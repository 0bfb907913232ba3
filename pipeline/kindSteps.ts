import type { RecipeKind } from "./recipe/kinds";
import type { StepName } from "./registry";

/**
 * The steps that stand in the line of each kind of stack between its frames and toning: those that
 * say where the frames lie, and those that merge them there. Edges stand among them where they
 * change the merge itself.
 */
export const KIND_STEPS: Readonly<
  Record<RecipeKind, { places: readonly StepName[]; merge: readonly StepName[] }>
> = {
  bracket: { places: ["prepare", "align"], merge: ["merge", "ghosts"] },
  focus: { places: ["prepare", "align"], merge: ["merge", "ghosts"] },
  panorama: { places: ["panorama"], merge: ["edges"] },
};

/** Steps that every kind has. */
const OF_EVERY_KIND: readonly StepName[] = [
  "frames",
  "prepare",
  "tone",
  "finish",
  "edges",
  "deliver",
];

/** Whether a kind of stack has a step. */
export const hasStep = (kind: RecipeKind, step: StepName): boolean =>
  [...OF_EVERY_KIND, ...KIND_STEPS[kind].places, ...KIND_STEPS[kind].merge].includes(step);
