import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import { RhizomeError } from "../../core/error";
import type { FrameSignature } from "../../core/grouping/signature";
import type { Frame, HistoryEntry, OwnLook, Queued, Result, Shoot, Stack, Take } from "./records";
import { keepPatches, nameMadeManually } from "./migrations";

export interface Schema extends DBSchema {
  shoots: { key: string; value: Shoot };
  frames: { key: string; value: Frame; indexes: { shootId: string } };
  originals: { key: string; value: Blob };
  thumbnails: { key: string; value: Blob };
  /** what grouping compares, by content like the originals */
  appearances: { key: string; value: FrameSignature };
  stacks: { key: string; value: Stack; indexes: { shootId: string } };
  takes: { key: string; value: Take; indexes: { shootId: string } };
  results: { key: string; value: Result; indexes: { shootId: string } };
  history: {
    key: number;
    value: HistoryEntry;
    indexes: { shootId: string; byShoot: [string, number] };
  };
  settings: { key: string; value: unknown };
  /** the user's own looks */
  looks: { key: string; value: OwnLook };
  /** deliveries that are not done yet */
  queue: { key: string; value: Queued; indexes: { shootId: string } };
  /** merges kept so that a stack opens at once; they can be made again at any time */
  kept: { key: string; value: Blob };
  keptUse: {
    key: string;
    value: { key: string; bytes: number; usedAt: number };
    indexes: { usedAt: number };
  };
}
export type Db = IDBPDatabase<Schema>;

let opened: Promise<Db> | undefined;

/** The browser's storage. Each version adds its stores, so that any older one can be brought up. */
export function db(): Promise<Db> {
  opened ??= openDB<Schema>("rhizome", 7, {
    async upgrade(d, from, _to, tx) {
      if (from < 1) {
        d.createObjectStore("shoots", { keyPath: "id" });
        for (const s of ["frames", "stacks", "takes", "results"] as const)
          d.createObjectStore(s, { keyPath: "id" }).createIndex("shootId", "shootId");
        d.createObjectStore("originals");
        d.createObjectStore("thumbnails");
        d.createObjectStore("history", { keyPath: "id", autoIncrement: true }).createIndex(
          "shootId",
          "shootId",
        );
        d.createObjectStore("settings");
      }
      if (from < 3) d.createObjectStore("appearances");
      if (from < 2) {
        d.createObjectStore("kept");
        d.createObjectStore("keptUse", { keyPath: "key" }).createIndex("usedAt", "usedAt");
      }
      if (from < 6) d.createObjectStore("looks", { keyPath: "id" });
      if (from < 7)
        d.createObjectStore("queue", { keyPath: "id" }).createIndex("shootId", "shootId");
      if (from > 0 && from < 4) await nameMadeManually(tx as never);
      if (from < 5) {
        tx.objectStore("history").createIndex("byShoot", ["shootId", "undone"]);
        if (from > 0) await keepPatches(tx as never);
      }
    },
    blocking() {
      void opened?.then((d) => d.close());
      opened = undefined;
    },
    terminated() {
      opened = undefined;
    },
  }).catch((e: unknown) => {
    opened = undefined;
    throw storageError(e);
  });
  return opened;
}

export function storageError(e: unknown): RhizomeError {
  if (e instanceof RhizomeError) return e;
  const name = e instanceof DOMException ? e.name : "";
  if (name === "QuotaExceededError")
    return new RhizomeError(
      "storage-full",
      "The browser's storage is full; this was not kept.",
      "delete shoots that are delivered, or free space on the disk",
    );
  if (name === "VersionError")
    return new RhizomeError(
      "storage-newer",
      "The stored shoots were written by a newer Rhizome.",
      "reload the page to get the current version",
    );
  return new RhizomeError(
    "storage-failed",
    `The browser's storage did not answer${e instanceof Error ? `: ${e.message}` : "."}`,
    "reload the page; private windows may forbid storage",
  );
}
