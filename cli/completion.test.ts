import { execFileSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

/** What bash offers for the last of the words. */
function offered(script: string, ...words: string[]): string[] {
  const file = folder.path("completion.bash");
  writeFileSync(file, script);
  const quoted = ["rhizome", ...words].map((word) => `'${word}'`).join(" ");
  const call = `source ${file}; COMP_WORDS=(${quoted}); COMP_CWORD=${words.length}; _rhizome; printf '%s\\n' "\${COMPREPLY[@]}"`;
  return execFileSync("bash", ["-c", call], { encoding: "utf8" }).trim().split("\n");
}

test("bash completes commands, options, values and settings", async () => {
  const { out, code } = await run("completion", "bash");
  expect(code).toBe(0);
  expect(offered(out, "me")).toEqual(["merge"]);
  expect(offered(out, "batch", "--de")).toEqual(["--delivery"]);
  expect(offered(out, "merge", "a.jpg", "--as", "pan")).toEqual(["panorama"]);
  expect(offered(out, "merge", "--set", "deliver.head")).toEqual(["deliver.headroom="]);
  // files are the shell's own
  expect(offered(out, "merge", "a.j")).toEqual([""]);
});

test.each([["fish"], []])("a shell that has none is said so: %s", async (...shell) => {
  const { code, err } = await run("completion", ...shell);
  expect(code).toBe(2);
  expect(err).toMatch(/bash or zsh/);
});
