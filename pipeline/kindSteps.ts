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
  bracket: { places: ["prepare", "align"], merge: ["merge", "ghosts", "edges"] },
  focus: { places: ["prepare", "align"], merge: ["merge", "ghosts", "edges"] },
  panorama: { places: ["panorama"], merge: ["edges"] },
};

/** Steps that every kind has although some kinds name them above: those that say more of them. */
const NAMED_OF_EVERY_KIND: readonly StepName[] = ["prepare", "edges"];

const namedBy = (kind: RecipeKind): readonly StepName[] => [
  ...KIND_STEPS[kind].places,
  ...KIND_STEPS[kind].merge,
];
const NAMED = (Object.keys(KIND_STEPS) as RecipeKind[]).flatMap(namedBy);

/** Whether a kind of stack has a step: a step that no kind names is one of every kind. */
export const hasStep = (kind: RecipeKind, step: StepName): boolean =>
  NAMED_OF_EVERY_KIND.includes(step) || namedBy(kind).includes(step) || !NAMED.includes(step);
