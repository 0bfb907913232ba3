import { mkdtemp, readdir, rm, utimes, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { nodeResultCache } from "./nodeResultCache";

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), "rhizome-results-"));
});
afterEach(() => rm(folder, { recursive: true, force: true }));
const merge = (n: number): Uint8Array<ArrayBuffer>[] => [
  new Uint8Array(n / 2),
  new Uint8Array(n / 2),
];

test("what was used longest ago goes when the quota is reached, and nothing else in the folder", async () => {
  const resultCache = nodeResultCache(folder, 250);
  await writeFile(join(folder, "letter.txt"), "not ours");
  await resultCache.put("a", merge(100));
  await resultCache.put("b", merge(100));
  // both long ago; then the first is used again
  for (const f of await readdir(folder))
    await utimes(join(folder, f), new Date(1e9), new Date(1e9));
  expect(await resultCache.get("a")).toBeDefined();
  await resultCache.put("c", merge(100));
  expect(
    [await resultCache.get("a"), await resultCache.get("b"), await resultCache.get("c")].map(
      (s) => s !== undefined,
    ),
  ).toEqual([true, false, true]);
  expect(await readdir(folder)).toContain("letter.txt");
});

test("a merge larger than the quota is not kept, one that is dropped is gone, and a key is no path", async () => {
  const resultCache = nodeResultCache(join(folder, "new", "folder"), 250);
  await resultCache.put("large", merge(300));
  expect(await resultCache.get("large")).toBeUndefined();
  await resultCache.put("../../x", merge(10));
  expect(
    (await readdir(folder, { recursive: true })).filter((f) => f.includes("x/") || f.endsWith("x")),
  ).toEqual([]);
  expect(await resultCache.get("../../x")).toBeDefined();
  await resultCache.drop("../../x");
  expect(await resultCache.get("../../x")).toBeUndefined();
});
