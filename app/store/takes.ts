import { RhizomeError } from "../../core/error";
import { defaultRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import type { Edit } from "./edit";
import { freeName } from "./freeName";
import type { Stack, Take } from "./records";

/** A stack with all its takes, in their order. */
export interface StackTakes {
  stack: Stack;
  takes: readonly Take[];
}

/** A stack has at most so many takes. */
export const MOST_TAKES = 40;

/** Takes in the order in which they are shown. */
export const inOrder = (takes: readonly Take[]): Take[] =>
  [...takes].sort((a, b) => a.order - b.order);

function found({ takes }: StackTakes, id: string): Take {
  const take = takes.find((t) => t.id === id);
  if (!take) throw new RhizomeError("take-unknown", "This take is gone.", "reload the page");
  return take;
}

/** What a new take begins from. */
export type TakeBegin =
  /** the recipe as it is on screen */
  { from: "this"; recipe: Recipe } | { from: "default" };

/**
 * Adds a take after the one it was begun beside.
 *
 * @param beside     the take that is open
 * @param restoredTo where the open take goes back to what it was, its recipe
 * @throws RhizomeError `takes-full`
 */
export function addTake(
  of: StackTakes,
  id: string,
  beside: string,
  begin: TakeBegin,
  name: string,
  restoredTo?: Recipe,
): Edit {
  if (of.takes.length >= MOST_TAKES)
    throw new RhizomeError(
      "takes-full",
      `A stack has at most ${MOST_TAKES} takes.`,
      "delete one that is no longer needed",
    );
  const open = found(of, beside);
  const recipe =
    begin.from === "this"
      ? begin.recipe
      : { ...defaultRecipe(open.recipe.kind), frames: open.recipe.frames };
  const ordered = inOrder(of.takes);
  const next = ordered[ordered.indexOf(open) + 1];
  const made: Take = {
    id,
    stackId: of.stack.id,
    shootId: of.stack.shootId,
    name: freeName(
      of.takes.map((take) => take.name),
      name,
    ),
    note: "",
    order: next ? (open.order + next.order) / 2 : open.order + 1,
    recipe,
  };
  return {
    label: `New take: ${made.name}`,
    puts: [
      { store: "takes", value: made },
      ...(restoredTo ? [{ store: "takes" as const, value: { ...open, recipe: restoredTo } }] : []),
    ],
  };
}

/** Gives a take another name or description. */
export function describeTake(
  of: StackTakes,
  id: string,
  words: Partial<Pick<Take, "name" | "note">>,
): Edit {
  const take = found(of, id);
  const label = words.name === undefined ? `Describe ${take.name}` : `Rename ${take.name}`;
  return { label, puts: [{ store: "takes", value: { ...take, ...words } }] };
}

/** Deletes a take. The last one stays; where the delivered one goes, its neighbour is delivered. */
export function deleteTake(of: StackTakes, id: string): Edit {
  const take = found(of, id);
  const ordered = inOrder(of.takes);
  if (ordered.length < 2) return { label: "", puts: [] };
  const at = ordered.indexOf(take);
  const heir = ordered[at ? at - 1 : 1]!;
  return {
    label: `Delete ${take.name}`,
    puts: [
      { store: "takes", remove: id },
      ...(of.stack.takeId === id
        ? [{ store: "stacks" as const, value: { ...of.stack, takeId: heir.id } }]
        : []),
    ],
  };
}

/** Moves a take among the others. */
export function moveTake(of: StackTakes, id: string, by: -1 | 1): Edit {
  const ordered = inOrder(of.takes);
  const at = ordered.findIndex((take) => take.id === id);
  const [one, other] = [ordered[at], ordered[at + by]];
  if (!one || !other) return { label: "", puts: [] };
  [ordered[at], ordered[at + by]] = [other, one];
  const moved = ordered.flatMap((take, order) =>
    take.order === order ? [] : [{ store: "takes" as const, value: { ...take, order } }],
  );
  return { label: `Order of takes`, puts: moved };
}

/** Makes a take the one that is delivered. */
export function deliverTake(of: StackTakes, id: string): Edit {
  const take = found(of, id);
  return {
    label: `Deliver ${take.name}`,
    puts: of.stack.takeId === id ? [] : [{ store: "stacks", value: { ...of.stack, takeId: id } }],
  };
}
