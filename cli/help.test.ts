import { settingLines } from "../pipeline/settings/reference";
import { run } from "../tests/cli/calls";

test("help names every command, and that of merging every setting with what it takes", async () => {
  const all = await run("--help");
  expect(all.code).toBe(0);
  for (const command of ["inspect", "group", "recipe", "merge", "batch"]) {
    expect(all.out).toContain(`rhizome ${command}`);
    const own = await run(command, "--help");
    expect([own.code, own.err]).toEqual([0, ""]);
    expect(own.out.startsWith(`rhizome ${command}`)).toBe(true);
  }
  const { out } = await run("merge", "--help");
  for (const { lines } of settingLines())
    for (const { name } of lines) expect(out).toContain(`\n  ${name}\n`);
  // it is read in a terminal
  expect(Math.max(...out.split("\n").map((line) => line.length))).toBeLessThanOrEqual(100);
});

test("the version is told", async () => {
  expect(await run("--version")).toMatchObject({
    code: 0,
    out: expect.stringMatching(/^\d+\.\d+/),
  });
});
