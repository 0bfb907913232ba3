import type { StackFrame } from "./arguments";
import type { FrameSignature } from "../core/grouping/signature";
import type { Pool } from "../pipeline/pool";
import { RhizomeError } from "../core/error";
import { basename, dirname, join } from "node:path";
import { readdir, readFile, stat } from "node:fs/promises";
import type { Words } from "../codecs/exif";
import { readSidecar } from "../codecs/sidecar";
import { sidecarNames } from "../codecs/sidecarNames";
import { isPictureName } from "../codecs/inputFormats";
import { byName } from "../core/grouping/captureOrder";
import { inspectingAllowance } from "../pipeline/allowance";

export interface ReadFrame extends StackFrame {
  signature?: FrameSignature;
  /** of its file, bytes */
  size: number;
}

export async function readFrames(
  pool: Pool,
  files: string[],
  signature = false,
): Promise<{ frames: ReadFrame[]; failed: RhizomeError[] }> {
  const listings = new Map<string, Promise<string[]>>();
  const results = await Promise.all(
    files.map(async (path): Promise<ReadFrame | RhizomeError> => {
      try {
        const size = await sizeOf(path);
        const {
          info,
          hash,
          signature: seen,
        } = await pool.run(
          "inspect",
          {
            source: { name: basename(path), path },
            thumbnail: 0,
            signature,
          },
          { subject: basename(path), allowanceMs: inspectingAllowance(size) },
        );
        return {
          id: path,
          content: hash,
          size: size ?? 0,
          ...(seen ? { signature: seen } : {}),
          source: { name: basename(path), path },
          info: { ...info, exif: { ...info.exif, ...(await wordsBeside(path, listings)) } },
        };
      } catch (e) {
        return RhizomeError.from(e);
      }
    }),
  );
  return {
    frames: results.filter((r): r is ReadFrame => !(r instanceof RhizomeError)),
    failed: results.filter((r) => r instanceof RhizomeError),
  };
}

/** What a sidecar beside a file says of it. @param listings  of folders that were looked into */
async function wordsBeside(path: string, listings: Map<string, Promise<string[]>>): Promise<Words> {
  const folder = dirname(path);
  const listing = listings.get(folder) ?? readdir(folder).catch(() => []);
  listings.set(folder, listing);
  const names = sidecarNames(basename(path));
  const sidecar = (await listing).find((name) => names.includes(name.toLowerCase()));
  if (sidecar === undefined) return {};
  return readSidecar(await readFile(join(folder, sidecar)).catch(() => new Uint8Array(0)));
}

export async function listPictures(dir: string): Promise<string[]> {
  let names: string[];
  try {
    names = await readdir(dir);
  } catch {
    throw new RhizomeError("unreadable", `${dir} is no folder that can be read.`, "check the path");
  }
  return names
    .filter(isPictureName)
    .sort(byName)
    .map((n) => join(dir, n));
}

/** Bytes of a file; undefined where it cannot be asked, which reading it will say by name. */
const sizeOf = (path: string): Promise<number | undefined> =>
  stat(path).then(
    ({ size }) => size,
    () => undefined,
  );
