import { jest } from "@jest/globals";
import { openDB } from "idb";
import { emptyStorage, shootOf, stackOf } from "./forStorage";

beforeEach(() => {
  jest.resetModules();
  emptyStorage();
});

const STORES = [
  "appearances",
  "frames",
  "history",
  "kept",
  "keptUse",
  "looks",
  "originals",
  "queue",
  "results",
  "settings",
  "shoots",
  "stacks",
  "takes",
  "thumbnails",
];

/** A database as an earlier version made it, with a shoot in it. */
async function olderStorage(version: 1 | 2 | 3 | 4): Promise<void> {
  const database = await openDB("rhizome", version, {
    upgrade(d) {
      d.createObjectStore("shoots", { keyPath: "id" });
      for (const name of ["frames", "stacks", "takes", "results"])
        d.createObjectStore(name, { keyPath: "id" }).createIndex("shootId", "shootId");
      for (const name of ["originals", "thumbnails", "settings"]) d.createObjectStore(name);
      const history = d.createObjectStore("history", { keyPath: "id", autoIncrement: true });
      history.createIndex("shootId", "shootId");
      if (version < 2) return;
      d.createObjectStore("kept");
      d.createObjectStore("keptUse", { keyPath: "key" }).createIndex("usedAt", "usedAt");
      if (version < 3) return;
      d.createObjectStore("appearances");
    },
  });
  // until version 4 another word stood for what was made by hand
  const word = version < 4 ? "mended" : "madeManually";
  const stored: Record<string, unknown> = { ...stackOf("k1", "s1") };
  delete stored.madeManually;
  stored[word] = true;
  await database.put("shoots", shootOf("s1"));
  await database.put("stacks", stored);
  await database.put("history", {
    shootId: "s1",
    label: "Cut",
    undone: false,
    mutations: [
      { store: "stacks", id: "k1", before: { ...stored, [word]: false }, after: stored },
      { store: "stacks", id: "k2", after: { ...stored, id: "k2" } },
    ],
  });
  await database.put("settings", "dark", "surround");
  database.close();
}

test.each([1, 2, 3, 4] as const)(
  "version %i is brought up with all that is in it",
  async (version) => {
    await olderStorage(version);
    const { db } = await import("./db");
    const database = await db();
    expect([...database.objectStoreNames].sort()).toEqual(STORES);
    expect(await database.get("shoots", "s1")).toEqual(shootOf("s1"));
    expect(await database.getAllFromIndex("stacks", "shootId", "s1")).toEqual([
      { ...stackOf("k1", "s1"), madeManually: true },
    ]);
    const [entry] = await database.getAllFromIndex("history", "byShoot", ["s1", 0]);
    expect(entry!.mutations).toEqual([
      {
        store: "stacks",
        id: "k1",
        forth: [{ op: "replace", path: ["madeManually"], value: true }],
        back: [{ op: "replace", path: ["madeManually"], value: false }],
      },
      {
        store: "stacks",
        id: "k2",
        after: { ...stackOf("k1", "s1"), id: "k2", madeManually: true },
      },
    ]);
    expect(await database.get("settings", "surround")).toBe("dark");
    database.close();
  },
);

test("a first visit has all stores, and nothing in them", async () => {
  const { db } = await import("./db");
  const database = await db();
  expect([...database.objectStoreNames].sort()).toEqual(STORES);
  expect(await database.count("shoots")).toBe(0);
  database.close();
});

test("what a newer version wrote is refused with what to do, and stays", async () => {
  const newer = await openDB("rhizome", 99, { upgrade: (d) => void d.createObjectStore("later") });
  newer.close();
  const { db } = await import("./db");
  await expect(db()).rejects.toMatchObject({ code: "storage-newer" });
  const still = await openDB("rhizome");
  expect([...still.objectStoreNames]).toEqual(["later"]);
  still.close();
});
