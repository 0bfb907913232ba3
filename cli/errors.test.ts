import { readdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { defaultRecipe } from "../pipeline/recipe/recipe";
import { bedroom, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("errors have a code, the file's name, one line, the right status, and leave no file", async () => {
  const broken = join(folder.dir(), "broken.jpg");
  const text = join(folder.dir(), "text.jpg");
  const file = join(folder.dir(), "never.jpg");
  await writeFile(broken, (await readFile(bedroom[0]!)).subarray(0, 50000));
  await writeFile(text, "this is no picture");
  const odd = join(folder.dir(), "odd.json");
  await writeFile(odd, JSON.stringify({ ...defaultRecipe("bracket"), polish: { repairs: [] } }));
  for (const [args, code, said] of [
    [
      ["merge", broken, bedroom[1]!, "--as", "bracket", "--out", file],
      1,
      /^rhizome: damaged: broken\.jpg .+\)\n$/,
    ],
    [["merge", text, "--as", "bracket", "--out", file], 1, /^rhizome: not-a-picture: text\.jpg/],
    [
      ["merge", bedroom[0]!, "--as", "bracket", "--out", join(folder.dir(), "x.gif")],
      2,
      /^rhizome: usage/,
    ],
    [
      ["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "tone.nothing=1"],
      2,
      /^rhizome: setting-unknown/,
    ],
    [
      ["merge", bedroom[0]!, "--recipe", odd, "--out", file],
      2,
      /^rhizome: setting-unknown: .*odd\.json .*polish\.repairs/,
    ],
    [
      ["merge", bedroom[0]!, "--recipe", text, "--out", file],
      2,
      /^rhizome: recipe-invalid: .*text/,
    ],
    [
      ["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "merge.reference=7"],
      2,
      /^rhizome: reference-unknown/,
    ],
    [
      ["merge", join(folder.dir(), "absent.jpg"), "--as", "bracket", "--out", file],
      1,
      /^rhizome: unreadable: absent\.jpg/,
    ],
    [["nonsense"], 2, /^rhizome: usage/],
    [["recipe", "constructor"], 2, /^rhizome: kind-unknown/],
  ] as const) {
    const r = await run(...args);
    expect([args.join(" "), r.code, r.err.match(said) !== null]).toEqual([
      args.join(" "),
      code,
      true,
    ]);
  }
  expect(
    (await readdir(folder.dir())).filter((f) => f.startsWith("never") || f.includes(".part")),
  ).toEqual([]);
});
