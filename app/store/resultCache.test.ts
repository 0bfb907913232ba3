import { jest } from "@jest/globals";
import { emptyStorage } from "./forStorage";

beforeEach(() => {
  jest.resetModules();
  emptyStorage();
});

/** A result cache in a browser that allows so many bytes; a fifth of them is the cache's. */
async function cacheOf(quota: number) {
  Object.defineProperty(globalThis, "navigator", {
    value: { storage: { estimate: () => Promise.resolve({ quota }) } },
    configurable: true,
  });
  let now = 1000;
  jest.spyOn(Date, "now").mockImplementation(() => now++);
  const { resultCache } = await import("./resultCache");
  const has = async (key: string): Promise<boolean> => (await resultCache.get(key)) !== undefined;
  return { resultCache, has };
}
const bytes = (n: number): Blob => new Blob([new Uint8Array(n)]);

test("what is kept comes back, by its key, until it is dropped", async () => {
  const { resultCache, has } = await cacheOf(5000);
  await resultCache.put("a", new Blob(["a merge"]));
  const found = (await resultCache.get("a")) as { blob: Blob };
  expect(await found.blob.text()).toBe("a merge");
  expect(await has("b")).toBe(false);
  await resultCache.drop("a");
  expect(await has("a")).toBe(false);
});

test("where there is no more room, what was used longest ago goes first", async () => {
  const { resultCache, has } = await cacheOf(5000);
  await resultCache.put("a", bytes(400));
  await resultCache.put("b", bytes(400));
  expect(await has("a")).toBe(true);
  await resultCache.put("c", bytes(400));
  expect([await has("a"), await has("b"), await has("c")]).toEqual([true, false, true]);
});

test("the same key is kept once, and what is larger than all room is not kept at all", async () => {
  const { resultCache, has } = await cacheOf(5000);
  for (let i = 0; i < 3; i++) await resultCache.put("a", bytes(600));
  await resultCache.put("b", bytes(300));
  expect([await has("a"), await has("b")]).toEqual([true, true]);
  await resultCache.put("c", bytes(1200));
  expect([await has("a"), await has("b"), await has("c")]).toEqual([true, true, false]);
});
