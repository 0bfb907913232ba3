import type { RecipeKind } from "./recipe/kinds";
import { STEP_NAMES, type StepName } from "./registry";

/**
 * The steps that stand in the line of each kind of stack between its frames and toning: those that
 * say where the frames lie, and those that merge them there. Edges stand among them where they
 * change the merge itself.
 */
export const KIND_STEPS = {
  bracket: { places: ["prepare", "align"], merge: ["merge", "ghosts", "edges"] },
  focus: { places: ["prepare", "align"], merge: ["merge", "ghosts", "edges"] },
  panorama: { places: ["panorama"], merge: ["edges"] },
} as const satisfies Readonly<
  Record<RecipeKind, { places: readonly StepName[]; merge: readonly StepName[] }>
>;

/** Steps that every kind has although some kinds name them above: those that say more of them. */
const NAMED_OF_EVERY_KIND = ["prepare", "edges"] as const satisfies readonly StepName[];

type NamedBy<K extends RecipeKind> = (typeof KIND_STEPS)[K]["places" | "merge"][number];
type OfEveryKind = Exclude<StepName, NamedBy<RecipeKind>> | (typeof NAMED_OF_EVERY_KIND)[number];

/** The steps that a kind of stack has. */
export type StepOf<K extends RecipeKind> = OfEveryKind | NamedBy<K>;

const namedBy = (kind: RecipeKind): readonly StepName[] => [
  ...KIND_STEPS[kind].places,
  ...KIND_STEPS[kind].merge,
];
const NAMED = (Object.keys(KIND_STEPS) as RecipeKind[]).flatMap(namedBy);

/** Whether a kind of stack has a step: a step that no kind names is one of every kind. */
export const hasStep = (kind: RecipeKind, step: StepName): boolean =>
  NAMED_OF_EVERY_KIND.some((name) => name === step) ||
  namedBy(kind).includes(step) ||
  !NAMED.includes(step);

/** The steps that a kind of stack has, in the order of the stem. */
export const stepsOf = <K extends RecipeKind>(kind: K): StepOf<K>[] =>
  STEP_NAMES.filter((step): step is StepOf<K> => hasStep(kind, step));
