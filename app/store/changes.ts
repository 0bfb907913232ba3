import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import type { IDBPObjectStore } from "idb";
import { db, storageError, type Schema } from "./db";
import type { Writer } from "./exclusive";
import { patched, patchesBetween } from "./patches";
import {
  SCHEMAS,
  UNDOABLE,
  type HistoryEntry,
  type Mutation,
  type RecordOf,
  type Undoable,
} from "./records";
import { tellTabs } from "./tabs";

export type Put = {
  [K in Undoable]: { store: K; value: RecordOf[K] } | { store: K; remove: string };
}[Undoable];

/** So many changes of a shoot can be undone; older ones are forgotten. */
export const MOST_UNDONE = 500;

const CHANGED_STORES = [...UNDOABLE, "history"] as const;
type Transaction = Awaited<ReturnType<typeof begin>>;
const begin = async () => (await db()).transaction(CHANGED_STORES, "readwrite");

/** The keys of a shoot's changes in their index: those done, and those undone. */
const keyOf = (shootId: string, undone: boolean): IDBKeyRange =>
  IDBKeyRange.only([shootId, undone ? 1 : 0]);

function checked(puts: readonly Put[]): void {
  for (const put of puts) {
    if (!("value" in put)) continue;
    const read = v.safeParse(SCHEMAS[put.store], put.value);
    if (read.success) continue;
    const [issue] = read.issues;
    throw new RhizomeError(
      "record-invalid",
      `This change cannot be kept: ${v.getDotPath(issue) ?? ""} ${issue.message}.`,
      "reload the page and try again",
    );
  }
}

/** Writes a record, and says how it was changed. @param asNew  undoing takes it away */
async function write(tx: Transaction, put: Put, asNew: boolean): Promise<Mutation> {
  const store = tx.objectStore(put.store);
  const id = "value" in put ? put.value.id : put.remove;
  const before = asNew ? undefined : await store.get(id);
  if (!("value" in put)) {
    await store.delete(id);
    return { store: put.store, id, ...(before ? { before } : {}) };
  }
  await store.put(put.value as never);
  if (!before) return { store: put.store, id, after: put.value };
  return { store: put.store, id, ...patchesBetween(before, put.value) };
}

/**
 * One change of the user's: all records in one transaction, with the patches that take it back, so
 * that it can be undone after a reload too (a new shoot cannot: it is deleted, after asking). What
 * had been undone before it is forgotten, as everywhere.
 *
 * @param writer  nobody else writes meanwhile: what the change was made from is still so
 * @throws RhizomeError `record-invalid`, `storage-full`, `storage-failed`; then nothing was written
 */
export async function change(
  _writer: Writer,
  shootId: string,
  label: string,
  puts: readonly Put[],
  options: {
    undoable: boolean;
    /** the records were written as they came in: undoing takes them away */
    asNew?: boolean;
  } = { undoable: true },
): Promise<void> {
  checked(puts);
  await stored(async () => {
    const tx = await begin();
    const mutations: Mutation[] = [];
    for (const put of puts) mutations.push(await write(tx, put, options.asNew ?? false));
    if (options.undoable) await remember(tx, { shootId, label, mutations, undone: 0 });
    await tx.done;
  });
}

/** Adds to what can be undone, up to the limit. */
async function remember(tx: Transaction, entry: Omit<HistoryEntry, "id">): Promise<void> {
  const history = tx.objectStore("history");
  const index = history.index("byShoot");
  for (const id of await index.getAllKeys(keyOf(entry.shootId, true))) await history.delete(id);
  await history.add(entry as HistoryEntry);
  const done = await index.getAllKeys(keyOf(entry.shootId, false));
  for (const id of done.slice(0, Math.max(0, done.length - MOST_UNDONE))) await history.delete(id);
}

export interface HistoryState {
  undo?: string;
  redo?: string;
}

/** The change that undo takes back next, or that redo brings back. */
async function nextEntry(
  history: Pick<IDBPObjectStore<Schema, ["history"], "history">, "index">,
  shootId: string,
  direction: "undo" | "redo",
): Promise<HistoryEntry | undefined> {
  const index = history.index("byShoot");
  const [range, order] =
    direction === "undo"
      ? [keyOf(shootId, false), "prev" as const]
      : [keyOf(shootId, true), "next" as const];
  return (await index.openCursor(range, order))?.value;
}

/** What the next undo and redo would take back and bring back. */
export async function historyOf(shootId: string): Promise<HistoryState> {
  const d = await db();
  const [undo, redo] = await Promise.all([
    nextEntry(d.transaction("history").store, shootId, "undo"),
    nextEntry(d.transaction("history").store, shootId, "redo"),
  ]);
  return { ...(undo ? { undo: undo.label } : {}), ...(redo ? { redo: redo.label } : {}) };
}

/** Takes a record's change back, or brings it back. */
async function replay(
  tx: Transaction,
  { store: name, id, before, after, forth, back }: Mutation,
  direction: "undo" | "redo",
): Promise<void> {
  const store = tx.objectStore(name);
  const patches = direction === "undo" ? back : forth;
  if (patches) {
    const now = await store.get(id);
    if (now) await store.put(patched(now, patches) as never);
    return;
  }
  const value = direction === "undo" ? before : after;
  if (value) await store.put(value as never);
  else await store.delete(id);
}

/**
 * Takes back the newest change of a shoot, or brings back the one taken back last. What was changed
 * in the same records since, in another tab, stays.
 *
 * @returns its label, if there was one
 */
export async function step(
  _writer: Writer,
  shootId: string,
  direction: "undo" | "redo",
): Promise<string | undefined> {
  let label: string | undefined;
  await stored(async () => {
    const tx = await begin();
    const history = tx.objectStore("history");
    const entry = await nextEntry(history as never, shootId, direction);
    if (entry) {
      label = entry.label;
      const { mutations } = entry;
      for (const mutation of direction === "undo" ? [...mutations].reverse() : mutations)
        await replay(tx, mutation, direction);
      await history.put({ ...entry, undone: direction === "undo" ? 1 : 0 });
    }
    await tx.done;
  });
  return label;
}

/** Writes, and tells the other tabs; what the storage says against it is told as it is elsewhere. */
async function stored(work: () => Promise<void>): Promise<void> {
  try {
    await work();
    tellTabs({ what: "changed" });
  } catch (e) {
    throw storageError(e);
  }
}
