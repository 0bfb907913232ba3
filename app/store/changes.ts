import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { db, storageError } from "./db";
import {
  SCHEMAS,
  UNDOABLE,
  type HistoryEntry,
  type Mutation,
  type RecordOf,
  type Undoable,
} from "./records";

export type Put = {
  [K in Undoable]: { store: K; value: RecordOf[K] } | { store: K; remove: string };
}[Undoable];

const channel =
  typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel("rhizome");

/** Tells when another tab has changed something. */
export function onForeignChange(listener: () => void): () => void {
  channel?.addEventListener("message", listener);
  return () => channel?.removeEventListener("message", listener);
}

/**
 * One change of the user's: all records in one transaction, with what they were before, so that it
 * can be undone after a reload too (a new shoot cannot: it is deleted, after asking). What had been
 * undone before it is forgotten, as everywhere.
 */
export async function change(
  shootId: string,
  label: string,
  puts: readonly Put[],
  options: {
    undoable: boolean;
    /** the records were written as they came in: undoing takes them away */
    asNew?: boolean;
  } = { undoable: true },
): Promise<void> {
  for (const p of puts)
    if ("value" in p) {
      const ok = v.safeParse(SCHEMAS[p.store], p.value);
      if (!ok.success)
        throw new RhizomeError(
          "record-invalid",
          `This change cannot be kept: ${v.getDotPath(ok.issues[0]) ?? ""} ${ok.issues[0].message}.`,
          "reload the page and try again",
        );
    }
  await locked(async () => {
    const tx = (await db()).transaction([...UNDOABLE, "history"], "readwrite");
    const mutations: Mutation[] = [];
    for (const p of puts) {
      const store = tx.objectStore(p.store);
      const id = "value" in p ? p.value.id : p.remove;
      const before = options.asNew ? undefined : await store.get(id);
      mutations.push({
        store: p.store,
        id,
        ...(before ? { before } : {}),
        ...("value" in p ? { after: p.value } : {}),
      });
      if ("value" in p) await store.put(p.value as never);
      else await store.delete(id);
    }
    if (!options.undoable) {
      await tx.done;
      return;
    }
    const history = tx.objectStore("history");
    for (const e of await history.index("shootId").getAll(shootId))
      if (e.undone) await history.delete(e.id);
    await history.add({ shootId, label, mutations, undone: false } as unknown as HistoryEntry);
    await tx.done;
  });
}

export interface HistoryState {
  undo?: string;
  redo?: string;
}

/** What the next undo and redo would take back and bring back. */
export async function historyOf(shootId: string): Promise<HistoryState> {
  const all = await (await db()).getAllFromIndex("history", "shootId", shootId);
  const undo = all.filter((e) => !e.undone).at(-1);
  const redo = all.find((e) => e.undone);
  return { ...(undo ? { undo: undo.label } : {}), ...(redo ? { redo: redo.label } : {}) };
}

/**
 * Takes back the newest change of a shoot, or brings back the one taken back last.
 *
 * @returns its label, if there was one
 */
export async function step(
  shootId: string,
  direction: "undo" | "redo",
): Promise<string | undefined> {
  let label: string | undefined;
  await locked(async () => {
    const tx = (await db()).transaction([...UNDOABLE, "history"], "readwrite");
    const history = tx.objectStore("history");
    const all = await history.index("shootId").getAll(shootId);
    const entry =
      direction === "undo" ? all.filter((e) => !e.undone).at(-1) : all.find((e) => e.undone);
    if (entry) {
      label = entry.label;
      for (const m of direction === "undo" ? [...entry.mutations].reverse() : entry.mutations) {
        const value = direction === "undo" ? m.before : m.after;
        if (value) await tx.objectStore(m.store).put(value as never);
        else await tx.objectStore(m.store).delete(m.id);
      }
      await history.put({ ...entry, undone: direction === "undo" });
    }
    await tx.done;
  });
  return label;
}

let lastAsked: Promise<unknown> = Promise.resolve();
/**
 * What the user asks for in this tab, one after another: each change reads what the one before it
 * wrote, and undo finds it stored.
 */
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = lastAsked.then(work, work);
  lastAsked = mine;
  return mine;
}

/** One writer at a time over all tabs. */
async function locked(work: () => Promise<void>): Promise<void> {
  try {
    if (navigator.locks) await navigator.locks.request("rhizome-write", work);
    else await work();
    channel?.postMessage("changed");
  } catch (e) {
    throw storageError(e);
  }
}
