import type { IDBPTransaction } from "idb";

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
