import { mkdtemp, readdir, rm, utimes, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { nodeDrawer } from "./nodeDrawer";

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), "rhizome-drawer-"));
});
afterEach(() => rm(folder, { recursive: true, force: true }));
const merge = (n: number): Uint8Array<ArrayBuffer>[] => [
  new Uint8Array(n / 2),
  new Uint8Array(n / 2),
];

test("what was used longest ago goes when the quota is reached, and nothing else in the folder", async () => {
  const drawer = nodeDrawer(folder, 250);
  await writeFile(join(folder, "letter.txt"), "not ours");
  await drawer.put("a", merge(100));
  await drawer.put("b", merge(100));
  // both long ago; then the first is used again
  for (const f of await readdir(folder))
    await utimes(join(folder, f), new Date(1e9), new Date(1e9));
  expect(await drawer.get("a")).toBeDefined();
  await drawer.put("c", merge(100));
  expect(
    [await drawer.get("a"), await drawer.get("b"), await drawer.get("c")].map(
      (s) => s !== undefined,
    ),
  ).toEqual([true, false, true]);
  expect(await readdir(folder)).toContain("letter.txt");
});

test("a merge larger than the quota is not kept, one that is dropped is gone, and a key is no path", async () => {
  const drawer = nodeDrawer(join(folder, "new", "folder"), 250);
  await drawer.put("large", merge(300));
  expect(await drawer.get("large")).toBeUndefined();
  await drawer.put("../../x", merge(10));
  expect(
    (await readdir(folder, { recursive: true })).filter((f) => f.includes("x/") || f.endsWith("x")),
  ).toEqual([]);
  expect(await drawer.get("../../x")).toBeDefined();
  await drawer.drop("../../x");
  expect(await drawer.get("../../x")).toBeUndefined();
});
