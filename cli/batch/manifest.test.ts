import { mkdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { ownFolder } from "../../tests/cli/calls";
import { isWhole, madeIn, readManifest, saveManifest, sha256Of, sumsText } from "./manifest";

const { path } = ownFolder();
const made = (name: string, bytes: Uint8Array<ArrayBuffer>) => ({
  name,
  size: bytes.length,
  sha256: sha256Of([bytes.subarray(0, 1), bytes.subarray(1)]),
  width: 1,
  height: 1,
  timingsMs: { total: 1 },
});

test("a file is whole where it is there byte for byte", async () => {
  const bytes = new Uint8Array([1, 2, 3]);
  const file = path("a.jpg");
  const noted = made("a.jpg", bytes);
  expect(await isWhole(file, noted)).toBe(false);
  await writeFile(file, bytes);
  expect(await isWhole(file, noted)).toBe(true);
  await writeFile(file, new Uint8Array([1, 2, 4]));
  expect(await isWhole(file, noted)).toBe(false);
  await writeFile(file, new Uint8Array([1, 2]));
  expect(await isWhole(file, noted)).toBe(false);
});

test("what is noted of a job is read again, and broken notes are none", async () => {
  const folder = path("notes");
  const first = { job: "1", name: "x", frames: [], files: [made("a.jpg", new Uint8Array([1]))] };
  await saveManifest(folder, first);
  expect(await readManifest(folder, "1")).toEqual(first);
  expect(await readManifest(folder, "2")).toBeUndefined();
  for (const text of ["{", "[]", '{"job":1}']) {
    await writeFile(join(folder, "3.json"), text);
    expect(await readManifest(folder, "3")).toBeUndefined();
  }
});

test("of files of one name the latest that is there is listed", async () => {
  const folder = path("list");
  await mkdir(folder);
  const note = (job: string, ...files: ReturnType<typeof made>[]): Promise<void> =>
    saveManifest(folder, { job, name: "", frames: [], files });
  await note("old", made("a.jpg", new Uint8Array([1])), made("b.jpg", new Uint8Array([2])));
  await new Promise((resolve) => setTimeout(resolve, 20));
  const latest = made("a.jpg", new Uint8Array([3]));
  await note("new", latest, made("gone.jpg", new Uint8Array([4])));
  const listed = await madeIn(folder, ["a.jpg", "b.jpg", "other.txt"]);
  expect(listed.map(({ name }) => name).sort()).toEqual(["a.jpg", "b.jpg"]);
  expect(listed).toContainEqual(latest);
  const lines = sumsText(listed).trimEnd().split("\n");
  expect(lines.map((line) => line.split("  ")[1])).toEqual(["a.jpg", "b.jpg"]);
  expect(await readFile(join(folder, "new.json"), "utf8")).toContain(latest.sha256);
});
