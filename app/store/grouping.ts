import type { ComparedPairs } from "../../core/grouping/pairStatistics";
import { stopped } from "../../runtime/stopped";
import { arrange } from "./arrange";
import { change, type Put } from "./changes";
import { db } from "./db";
import { exclusively, type Writer } from "./exclusive";
import type { Frame } from "./records";

/** Finding stacks is tried so often while something else changes them. */
const TRIES = 3;

/**
 * Finds the stacks of frames that came in. It takes long, so the storage is not held meanwhile: where
 * stacks were changed by hand since they were read, they are found once more.
 */
export async function groupFresh({
  shootId,
  old,
  fresh,
  pairs,
}: {
  shootId: string;
  old: readonly Frame[];
  fresh: readonly Frame[];
  pairs: ComparedPairs;
}): Promise<void> {
  const d = await db();
  const readStacks = () => d.getAllFromIndex("stacks", "shootId", shootId);
  const find = async (): Promise<{ seen: string; puts: Put[] }> => {
    const stacks = await readStacks();
    const mine = new Set(fresh.map((f) => f.id));
    // a stack that was changed by hand meanwhile keeps its frames
    for (const stack of stacks)
      if (stack.madeManually || stack.frameIds.some((id) => !mine.has(id)))
        for (const id of stack.frameIds) mine.delete(id);
    const puts = await arrange(shootId, [...old, ...fresh], stacks, mine, pairs);
    return { seen: JSON.stringify(stacks), puts };
  };
  for (let left = TRIES; left > 0; left--) {
    const { seen, puts } = await find();
    const isKept = await exclusively(async (writer) => {
      if (left > 1 && JSON.stringify(await readStacks()) !== seen) return false;
      if (!(await d.getKey("shoots", shootId))) throw stopped();
      await change(writer, shootId, "", puts, { undoable: false });
      return true;
    });
    if (isKept) return;
  }
}

/**
 * Groups again: all frames that no hand has put where they are, or (`loose`) only those in no stack
 * yet.
 */
export async function groupAgain(
  writer: Writer,
  shootId: string,
  which: "untouched" | "loose",
): Promise<number> {
  const d = await db();
  const [frames, stacks] = await Promise.all([
    d.getAllFromIndex("frames", "shootId", shootId),
    d.getAllFromIndex("stacks", "shootId", shootId),
  ]);
  const fixed = new Set(
    stacks
      .filter(
        (s) =>
          which === "loose" ||
          s.madeManually ||
          stacks.some((o) => o.id === s.parentId && o.madeManually),
      )
      .flatMap((s) => s.frameIds),
  );
  const puts = await arrange(
    shootId,
    frames,
    stacks,
    new Set(frames.filter((f) => !fixed.has(f.id)).map((f) => f.id)),
  );
  if (puts.length)
    await change(writer, shootId, "Group again", puts, { undoable: which === "untouched" });
  return puts.length;
}
