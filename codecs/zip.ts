import {
  BlobReader,
  configure,
  ZipReader,
  type Entry,
  type FileEntry,
} from "@zip.js/zip.js/lib/zip-core-native.js";
import { RhizomeError } from "../core/error";
import { isPictureName } from "./inputFormats";
import { isSidecarName } from "./sidecarNames";
import { damaged } from "./limits";

// it is read in workers already
configure({ useWebWorkers: false, useCompressionStream: true });

/** Largest file that is taken out of a zip, bytes. */
const LARGEST_FILE = 4 * 2 ** 30;
/** Most that all of a zip may unpack to, bytes. */
const LARGEST_TOTAL = 2 ** 38;
/** How many times its packed size a file may be, from a size on that can do harm: no picture is. */
const MOST_RATIO = 200;
const HARMLESS = 64 * 2 ** 20;

/** A picture in a zip, or what lies beside one. */
export interface ZippedPicture {
  /** its place in the zip's index */
  index: number;
  /** without folders */
  name: string;
  /** where it lies in the zip; empty where in no folder */
  folder: string;
  bytes: number;
}

/** The first file of a backup, which is restored and not brought in. */
export const BACKUP_INDEX = "backup.json";

export interface ZipContents {
  pictures: ZippedPicture[];
  /** what is said of pictures beside them */
  sidecars: ZippedPicture[];
  /** what was left out, each with its reason */
  leftOut: RhizomeError[];
}

/** Notes that a computer leaves beside files: no pictures, whatever their names say. */
const isNote = (path: string): boolean => /(^|\/)(__MACOSX\/|\._)/.test(path);
const nameOf = (path: string): string => path.split(/[\\/]/).at(-1)!;
/** The folders of a path, without those that lead nowhere or out of the zip. */
const folderOf = (path: string): string =>
  path
    .split(/[\\/]/)
    .slice(0, -1)
    .filter((part) => !["", ".", ".."].includes(part))
    .join("/");

const leftOut = (zip: string, file: string, why: string, remedy: string): RhizomeError =>
  new RhizomeError("left-out", `${file} in ${zip} was left out: ${why}.`, remedy);

/** Why a file is not taken out; undefined if it is. */
function refusal(entry: Entry, zip: string): RhizomeError | undefined {
  const file = nameOf(entry.filename);
  const unpackIt = "unpack the zip and bring the file in";
  if (!isPictureName(file) && !isSidecarName(file))
    return leftOut(zip, file, "it is not a picture of a kind that is read", unpackIt);
  if (entry.encrypted) return leftOut(zip, file, "it is locked with a password", unpackIt);
  const { compressedSize: packed, uncompressedSize: bytes } = entry;
  if (bytes > LARGEST_FILE || (bytes > HARMLESS && bytes > packed * MOST_RATIO))
    return leftOut(zip, file, `it says that it unpacks to ${bytes} bytes`, "pack it again");
  return undefined;
}

async function withZip<T>(blob: Blob, name: string, use: (entries: Entry[]) => Promise<T>) {
  const reader = new ZipReader(new BlobReader(blob), {
    checkSignature: true,
    // only the last part of a name is used, and as a name alone
    filenameValidation: "tolerant",
  });
  try {
    return await use(await reader.getEntries());
  } catch (e) {
    throw damaged(name, e);
  } finally {
    await reader.close();
  }
}

/**
 * What is in a zip, by its index alone: nothing is unpacked.
 *
 * @throws RhizomeError `damaged`
 */
export function listZip(blob: Blob, name: string): Promise<ZipContents> {
  return withZip(blob, name, async (entries) => {
    const contents: ZipContents = { pictures: [], sidecars: [], leftOut: [] };
    if (entries.some(({ filename }) => filename === BACKUP_INDEX))
      throw new RhizomeError(
        "is-a-backup",
        `${name} is a backup.`,
        "restore it on the Storage screen",
      );
    let total = 0;
    for (const [index, entry] of entries.entries()) {
      if (entry.directory || isNote(entry.filename)) continue;
      const file = nameOf(entry.filename);
      const refused = refusal(entry, name);
      total += entry.uncompressedSize;
      if (refused) contents.leftOut.push(refused);
      else if (total > LARGEST_TOTAL)
        contents.leftOut.push(leftOut(name, file, "the zip holds too much", "make smaller zips"));
      else {
        const { filename, uncompressedSize: bytes } = entry;
        const list = isSidecarName(file) ? contents.sidecars : contents.pictures;
        list.push({ index, name: file, folder: folderOf(filename), bytes });
      }
    }
    return contents;
  });
}

/** A file of a zip, taken piece by piece, and no more of it than the index says. */
async function unpacked(entry: FileEntry): Promise<Blob> {
  const parts: BlobPart[] = [];
  let taken = 0;
  const sink = new WritableStream<Uint8Array<ArrayBuffer>>({
    write(part) {
      taken += part.length;
      if (taken > entry.uncompressedSize) throw new Error("it unpacks to more than it says");
      parts.push(part);
    },
  });
  await entry.getData(sink);
  return new Blob(parts);
}

/**
 * One picture of a zip, unpacked piece by piece; it stops as soon as more comes than the zip's index
 * says.
 *
 * @throws RhizomeError `damaged`
 */
export function unpackZipped(blob: Blob, zip: string, picture: ZippedPicture): Promise<Blob> {
  return withZip(blob, `${picture.name} in ${zip}`, async (entries) => {
    return unpacked(entries[picture.index] as FileEntry);
  });
}

/**
 * The files of a zip by their paths, each read when it is asked for.
 *
 * @throws RhizomeError `damaged`, also when a file is read
 */
export async function readStored(
  blob: Blob,
  name: string,
): Promise<Map<string, () => Promise<Blob>>> {
  return withZip(blob, name, async (entries) => {
    const files = entries.filter((entry): entry is FileEntry => !entry.directory);
    return new Map(
      files.map((entry) => [
        entry.filename,
        () =>
          unpacked(entry).catch((e: unknown) => {
            throw damaged(`${entry.filename} in ${name}`, e);
          }),
      ]),
    );
  });
}
