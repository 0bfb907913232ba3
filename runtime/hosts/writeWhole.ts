import { mkdir, rename, rm, writeFile } from "node:fs/promises";
import { dirname } from "node:path";
import type { Parts } from "../files";

/** Writes beside the target and renames, so that no half file is ever found under its name. */
export async function writeWhole(file: string, parts: Parts): Promise<void> {
  const beside = `${file}.${process.pid}.part`;
  try {
    await mkdir(dirname(file), { recursive: true });
    await writeFile(beside, parts);
    await rename(beside, file);
  } catch (e) {
    await rm(beside, { force: true });
    throw e;
  }
}
