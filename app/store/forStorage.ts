// What the tests of the storage share: a database in memory, and records.
import "fake-indexeddb/auto";
import { IDBFactory } from "fake-indexeddb";
import type { Frame, Shoot, Stack } from "./records";

/** Begins with an empty database; the modules that keep it open have to be loaded anew. */
export function emptyStorage(): void {
  globalThis.indexedDB = new IDBFactory();
  // one tab alone: Node's own channel would keep the test's process open
  Object.assign(globalThis, { BroadcastChannel: undefined });
  // what the browser has and Node 20 has not
  if (!("navigator" in globalThis)) Object.assign(globalThis, { navigator: {} });
}

export const shootOf = (id: string): Shoot => ({ id, name: `Shoot ${id}`, createdAt: 1 });

export const stackOf = (id: string, shootId: string): Stack => ({
  id,
  shootId,
  kind: "bracket",
  name: `Stack ${id}`,
  order: 0,
  frameIds: ["f1", "f2"],
  why: "2 exposures",
  warnings: [],
  takeId: "t1",
  rating: 0,
  label: "none",
  note: "",
  done: false,
  accepted: [],
  madeManually: false,
});

export const frameOf = (id: string, shootId: string): Frame => ({
  id,
  shootId,
  hash: `hash ${id}`,
  size: 1,
  info: {
    name: `${id}.jpg`,
    format: "jpeg",
    width: 10,
    height: 10,
    depth: 8,
    profile: "sRGB",
    exif: {},
  },
});
