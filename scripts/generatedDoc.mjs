// What the scripts that make documents share.
import { readFile, writeFile } from "node:fs/promises";
import { format } from "prettier";

/**
 * Writes a document that is made by a script; with --check it only says whether it is up to date,
 * and ends the process with 1 if not.
 *
 * @param made  the npm script that makes it
 */
export async function writeOrCheck(file, made, markdown) {
  const text = await format(markdown, { parser: "markdown", printWidth: 100 });
  if (!process.argv.includes("--check")) return writeFile(file, text);
  if ((await readFile(file, "utf8").catch(() => "")) === text) return;
  process.stderr.write(`${file} is not up to date: run npm run ${made}\n`);
  process.exit(1);
}
