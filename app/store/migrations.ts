import type { IDBPTransaction } from "idb";
import { patchesBetween } from "./patches";

/** A stack as it was stored before, under the present names of its fields. */
function renamed(record: unknown): unknown {
  if (typeof record !== "object" || record === null || !("mended" in record)) return record;
  const { mended, ...rest } = record;
  return { ...rest, madeManually: mended };
}

/**
 * Version 4 names what a stack's user put together `madeManually`, in the stacks and in what undo
 * brings back.
 */
export async function nameMadeManually(
  tx: Pick<IDBPTransaction<unknown, string[], "versionchange">, "objectStore">,
): Promise<void> {
  for (let at = await tx.objectStore("stacks").openCursor(); at; at = await at.continue())
    await at.update(renamed(at.value));
  for (let at = await tx.objectStore("history").openCursor(); at; at = await at.continue()) {
    const mutations = (at.value.mutations as { before?: unknown; after?: unknown }[]).map((m) => ({
      ...m,
      ...("before" in m ? { before: renamed(m.before) } : {}),
      ...("after" in m ? { after: renamed(m.after) } : {}),
    }));
    await at.update({ ...at.value, mutations });
  }
}

/** Version 5 keeps what undo takes back as patches, and finds it by an index that knows no booleans. */
export async function keepPatches(
  tx: Pick<IDBPTransaction<unknown, string[], "versionchange">, "objectStore">,
): Promise<void> {
  for (let at = await tx.objectStore("history").openCursor(); at; at = await at.continue()) {
    const { mutations, undone, ...entry } = at.value as {
      mutations: { store: string; id: string; before?: object; after?: object }[];
      undone: boolean;
    };
    await at.update({
      ...entry,
      mutations: mutations.map(({ store, id, before, after }) =>
        before && after
          ? { store, id, ...patchesBetween(before, after) }
          : { store, id, ...(before ? { before } : {}), ...(after ? { after } : {}) },
      ),
      undone: undone ? 1 : 0,
    });
  }
}
