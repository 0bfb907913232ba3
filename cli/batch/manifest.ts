import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { readdir, readFile, stat } from "node:fs/promises";
import { join } from "node:path";
import * as v from "valibot";
import type { Parts } from "../../codecs/stream";
import { save } from "../merge";

export const MadeFileSchema = v.object({
  /** within the folder of the results */
  name: v.string(),
  /** of the file, bytes */
  size: v.number(),
  sha256: v.string(),
  width: v.number(),
  height: v.number(),
  /** how long each stage took, ms */
  timingsMs: v.record(v.string(), v.number()),
});
/** A file that was made, with what it can be checked by. */
export type MadeFile = v.InferOutput<typeof MadeFileSchema>;

const ManifestSchema = v.object({
  job: v.string(),
  name: v.string(),
  frames: v.array(v.object({ name: v.string(), content: v.string() })),
  files: v.array(MadeFileSchema),
});
/** What a job made of what, kept beside the results. */
export type Manifest = v.InferOutput<typeof ManifestSchema>;

const manifestFile = (folder: string, job: string): string => join(folder, `${job}.json`);

/** What a job made before; undefined where there is nothing, or nothing that can be read. */
export async function readManifest(folder: string, job: string): Promise<Manifest | undefined> {
  const text = await readFile(manifestFile(folder, job), "utf8").catch(() => "");
  try {
    return v.parse(ManifestSchema, JSON.parse(text));
  } catch {
    return undefined;
  }
}

export const saveManifest = (folder: string, manifest: Manifest): Promise<void> =>
  save(manifestFile(folder, manifest.job), [
    new TextEncoder().encode(`${JSON.stringify(manifest, null, 2)}\n`),
  ]);

/** The SHA-256 of a file's bytes in hexadecimal digits. */
export const sha256Of = (parts: Parts): string => {
  const hash = createHash("sha256");
  for (const part of parts) hash.update(part);
  return hash.digest("hex");
};

async function sha256OfFile(path: string): Promise<string> {
  const hash = createHash("sha256");
  for await (const part of createReadStream(path)) hash.update(part as Buffer);
  return hash.digest("hex");
}

/** Whether a file is there as it was made, byte for byte. */
export async function isWhole(path: string, { size, sha256 }: MadeFile): Promise<boolean> {
  const found = await stat(path).catch(() => undefined);
  if (found?.size !== size) return false;
  return (await sha256OfFile(path).catch(() => "")) === sha256;
}

/** The list of files with their sums, as `sha256sum --check` reads it. */
export const sumsText = (files: readonly MadeFile[]): string =>
  [...files]
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .map(({ name, sha256 }) => `${sha256}  ${name}\n`)
    .join("");

/**
 * All files that were made and are there, the latest of each name.
 *
 * @param folder  with the manifests
 * @param there  names in the folder of the results, with those in its folders
 */
export async function madeIn(folder: string, there: readonly string[]): Promise<MadeFile[]> {
  const names = (await readdir(folder)).filter((name) => name.endsWith(".json"));
  const manifests = await Promise.all(
    names.map(async (name) => {
      const { mtimeMs } = await stat(join(folder, name));
      return { mtimeMs, made: await readManifest(folder, name.slice(0, -".json".length)) };
    }),
  );
  const latest = new Map<string, MadeFile>();
  for (const { made } of manifests.sort((a, b) => a.mtimeMs - b.mtimeMs))
    for (const file of made?.files ?? []) latest.set(file.name, file);
  return [...latest.values()].filter(({ name }) => there.includes(name));
}
