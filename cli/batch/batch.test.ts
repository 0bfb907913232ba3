import { copyFile, mkdir, readFile, readdir, rm, stat, writeFile } from "node:fs/promises";
import { basename, extname, join } from "node:path";
import { bedroom, ownFolder, run } from "../../tests/cli/calls";

const { path } = ownFolder();
/** A folder with one bracket. */
async function folderOf(name: string): Promise<string> {
  const folder = path(name);
  await mkdir(folder);
  for (const file of bedroom) await copyFile(file, join(folder, basename(file)));
  return folder;
}
const first = basename(bedroom[0]!).replace(/\.jpg$/, "");

test("a batch makes every delivery of every stack from one merge, and goes on where it stopped", async () => {
  const folder = await folderOf("job");
  const out = path("out");
  const small = path("small.json");
  await writeFile(
    small,
    JSON.stringify({
      name: "Small",
      settings: {
        format: "webp",
        size: "fit 300x300",
        pattern: "{delivery} ones/{date}_{number}_{count}_{delivery}",
      },
    }),
  );
  const log = path("log.jsonl");
  const options = ["--delivery", "web", "--delivery", small, "--log", log];
  const done = await run("batch", folder, "--out", out, ...options);
  expect(done.code).toBe(0);
  const all = (await readdir(out, { recursive: true })).filter((name) => extname(name));
  const names = all.filter((name) => !name.endsWith(".json")).sort();
  expect(names).toHaveLength(2);
  expect(all).toHaveLength(4);
  expect(names).toContain(`${first}-web.jpg`);
  const webp = names.find((name) => name.endsWith(".webp"))!;
  expect(webp).toMatch(/^Small ones\/\d{4}-\d\d-\d\d_001_\d_Small\.webp$/);
  const entries = (await readFile(log, "utf8"))
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line) as { state: string; file: string });
  expect(
    entries
      .filter(({ state }) => state === "merged")
      .map((e) => basename(e.file))
      .sort(),
  ).toEqual(names.map((name) => basename(name)).sort());

  const bytes = await readFile(join(out, webp));
  // its recipe makes it once more, of frames in another place
  const elsewhere = path("elsewhere.webp");
  const own = join(out, webp.replace(/\.webp$/, ".rhizome.json"));
  expect(await run("merge", ...bedroom, "--recipe", own, "--out", elsewhere)).toMatchObject({
    code: 0,
    err: "",
  });
  expect((await readFile(elsewhere)).equals(bytes)).toBe(true);
  const before = await stat(join(out, `${first}-web.jpg`));
  await rm(join(out, webp));
  const again = await run("batch", folder, "--out", out, ...options, "--resume");
  expect(again.code).toBe(0);
  expect(again.out).toMatch(/^kept\t.*-web\.jpg/m);
  expect((await stat(join(out, `${first}-web.jpg`))).mtimeMs).toBe(before.mtimeMs);
  expect((await readFile(join(out, webp))).equals(bytes)).toBe(true);
}, 120_000);

test.each([
  ["a delivery that is not there", "Poster", undefined, /Poster.*built in are/],
  ["a delivery that is none", "bad.json", '{"name":"x","settings":{"format":"bmp"}}', /bad\.json/],
  ["a delivery that is no JSON", "worse.json", "{", /worse\.json/],
])("%s is named before anything is made", async (_, name, text, said) => {
  const file = text === undefined ? name : path(name);
  if (text !== undefined) await writeFile(file, text);
  const folder = await folderOf(`job-${name}`);
  const out = path(`out-${name}`);
  const done = await run("batch", folder, "--out", out, "--delivery", file);
  expect(done.code).toBe(1);
  expect(done.err).toMatch(said);
  expect(await readdir(out).catch(() => [])).toEqual([]);
});
