import { readFile, writeFile } from "node:fs/promises";
import { bedroom, ownFolder, run } from "../tests/cli/calls";

const { path } = ownFolder();

test("looks are listed and shown, and what is shown can be handed in", async () => {
  const list = await run("look", "list");
  expect(list.code).toBe(0);
  const names = list.out.trim().split("\n");
  expect(names.length).toBeGreaterThanOrEqual(8);
  const [name] = names[0]!.split("\t");
  const shown = await run("look", "show", name!);
  await writeFile(path("own.json"), shown.out);
  const pictures = [];
  for (const look of [[], ["--look", name!], ["--look", path("own.json")]]) {
    const out = path(`bedroom${pictures.length}.png`);
    const done = await run("merge", ...bedroom, "--as", "bracket", ...look, "--out", out);
    expect(done).toMatchObject({ code: 0 });
    pictures.push(await readFile(out));
  }
  expect(pictures[1]!.equals(pictures[0]!)).toBe(false);
  expect(pictures[2]!.equals(pictures[1]!)).toBe(true);
});

test.each([
  ["a look that is not there", ["--look", "Sparkle"], /Sparkle/],
  ["an amount that is none", ["--look", "Timber", "--amount", "3"], /0 to 1\.5/],
  ["an amount of nothing", ["--amount", "1"], /--look/],
])("%s is a wrong call", async (_, options, said) => {
  const done = await run(
    "merge",
    ...bedroom,
    "--as",
    "bracket",
    ...options,
    "--out",
    path("x.png"),
  );
  expect(done.code).toBe(2);
  expect(done.err).toMatch(said);
});
