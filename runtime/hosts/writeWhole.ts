import { randomUUID } from "node:crypto";
import { mkdir, readdir, rename, rm, writeFile } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import type { Parts } from "../files";

/** What the name of a file in the making ends in. */
const ENDING = ".part";

/**
 * Writes beside the target and renames, so that no half file is ever found under its name. Several
 * machines may write the same file at once.
 */
export async function writeWhole(file: string, parts: Parts): Promise<void> {
  const beside = `${file}.${randomUUID()}${ENDING}`;
  try {
    await mkdir(dirname(file), { recursive: true });
    await writeFile(beside, parts);
    await rename(beside, file);
  } catch (e) {
    await rm(beside, { force: true });
    throw e;
  }
}

/** Removes what was begun of files by processes that ended in the middle of them. */
export async function removeParts(files: readonly string[]): Promise<void> {
  for (const folder of new Set(files.map((file) => dirname(file)))) {
    const begun = files.filter((file) => dirname(file) === folder).map((file) => basename(file));
    const names = await readdir(folder).catch(() => []);
    const parts = names.filter(
      (name) => name.endsWith(ENDING) && begun.some((file) => name.startsWith(`${file}.`)),
    );
    for (const name of parts) await rm(join(folder, name), { force: true });
  }
}
