import { jest } from "@jest/globals";
import { emptyStorage, frameOf } from "./forStorage";

const HASHES = ["a", "b"].map((letter) => letter.repeat(32));

/** The storage with merges of three frames' contents, the first used longest ago. */
async function storage() {
  jest.resetModules();
  emptyStorage();
  const { db } = await import("./db");
  const kept = await import("./keptMerges");
  const { resultCache } = await import("./resultCache");
  const d = await db();
  for (const [i, hash] of HASHES.entries())
    await d.put("frames", { ...frameOf(`f${i}`, `shoot ${i}`), hash });
  const keys = [...HASHES, "c".repeat(32)].map((hash) => JSON.stringify(["bracket", hash]));
  for (const [i, key] of keys.entries()) {
    await d.put("kept", new Blob([new Uint8Array(100)]), key);
    await d.put("keptUse", { key, bytes: 100, usedAt: i });
  }
  return { d, keys, resultCache, ...kept };
}

test("kept merges are counted by the shoot whose frames they are of", async () => {
  const { d, keptByShoot, shootsByHash } = await storage();
  expect(await keptByShoot(await shootsByHash())).toEqual(
    new Map([
      ["shoot 0", 100],
      ["shoot 1", 100],
      ["", 100],
    ]),
  );
  d.close();
});

test("those of one shoot are cleared, or all", async () => {
  const { d, keys, clearKept } = await storage();
  await clearKept("shoot 0");
  expect((await d.getAllKeys("kept")).sort()).toEqual(keys.slice(1));
  await clearKept();
  expect([await d.count("kept"), await d.count("keptUse")]).toEqual([0, 0]);
  d.close();
});

test("a lower limit lets go of those used longest ago, and of no more", async () => {
  const { d, keys, setKeptLimit, keptLimit } = await storage();
  await setKeptLimit(250);
  expect(await keptLimit()).toBe(250);
  expect((await d.getAllKeys("kept")).sort()).toEqual(keys.slice(1));
  await expect(setKeptLimit(-1)).rejects.toThrow();
  d.close();
});

test("what does not fit is not kept, and what is kept makes room", async () => {
  const { d, keys, setKeptLimit, resultCache } = await storage();
  await setKeptLimit(300);
  await resultCache.put("new", new Blob([new Uint8Array(150)]));
  expect((await d.getAllKeys("kept")).sort()).toEqual([keys[2], "new"].sort());
  await resultCache.put("huge", new Blob([new Uint8Array(400)]));
  expect(await d.getKey("kept", "huge")).toBeUndefined();
  d.close();
});
