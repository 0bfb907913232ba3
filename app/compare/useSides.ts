import { useEffect, useMemo, useState } from "react";
import { applyLook } from "../../pipeline/looks/applyLook";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { ListedLook } from "../store/looks";
import type { StackData } from "../store/shoots";
import { mergeIdentity, StackSession } from "../work/session";
import { stackFrames } from "../work/stackWork";
import type { SideChoice } from "./side";

/** A side of the comparison, ready to be looked at. */
export interface Side {
  choice: SideChoice;
  name: string;
  session: StackSession;
  recipe: Recipe;
  /** the frame that it is, by its place in the stack */
  frame?: number;
}

/** What a side shows of its stack. */
type Shown = Pick<Side, "choice" | "name" | "recipe" | "frame"> & { of: StackData };

function shownBy(
  choice: SideChoice,
  data: StackData,
  others: ReadonlyMap<string, StackData>,
  looks: readonly ListedLook[],
): Shown | undefined {
  const { take } = data;
  if (choice.what === "take") {
    const found = data.takes.find(({ id }) => id === choice.id);
    return found && { choice, name: found.name, recipe: found.recipe, of: data };
  }
  if (choice.what === "frame") {
    const frame = data.frames.findIndex(({ id }) => id === choice.id);
    if (frame < 0) return undefined;
    const { name } = data.frames[frame]!.info;
    return { choice, name, recipe: take.recipe, frame, of: data };
  }
  if (choice.what === "look") {
    const listed = looks.find(({ id }) => id === choice.id);
    if (!listed) return undefined;
    const name = `${listed.look.name}, ${Math.round(choice.amount * 100)}\u00a0%`;
    return { choice, name, recipe: applyLook(take.recipe, listed.look, choice.amount), of: data };
  }
  const other = others.get(choice.id);
  return other && { choice, name: other.stack.name, recipe: other.take.recipe, of: other };
}

/** Sides that are merged alike share a session. */
function keyOf({ of, recipe }: Shown): string {
  const frames = stackFrames(of.frames, of.originals);
  return `${of.stack.id} ${mergeIdentity(frames, recipe)}`;
}

/** The sides of a comparison with what shows them; those that are gone are left out. */
export function useSides(
  choices: readonly SideChoice[],
  data: StackData,
  others: ReadonlyMap<string, StackData>,
  looks: readonly ListedLook[],
): Side[] {
  const [sessions] = useState(() => new Map<string, StackSession>());
  const shown = useMemo(
    () => choices.flatMap((choice) => shownBy(choice, data, others, looks) ?? []),
    [choices, data, others, looks],
  );
  const sides = useMemo(
    () =>
      shown.map(({ of, ...side }): Side => {
        const key = keyOf({ of, ...side });
        let session = sessions.get(key);
        if (!session)
          sessions.set(key, (session = new StackSession(stackFrames(of.frames, of.originals))));
        return { ...side, session };
      }),
    [shown, sessions],
  );
  useEffect(() => {
    for (const { session, recipe } of sides) session.update(recipe);
    const used = new Set(sides.map(({ session }) => session));
    for (const [key, session] of sessions)
      if (!used.has(session)) {
        sessions.delete(key);
        session.close();
      }
  }, [sides, sessions]);
  useEffect(
    () => () => {
      for (const session of sessions.values()) session.close();
      sessions.clear();
    },
    [sessions],
  );
  return sides;
}
