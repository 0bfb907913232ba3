import { isPictureName, isPictureType } from "../../codecs/inputFormats";
import { isSidecarName, readSidecar, sidecarNames, type Words } from "../../codecs/sidecar";
import { RhizomeError } from "../../core/error";
import { byName } from "../../core/grouping/captureOrder";
import { inspectingAllowance } from "../../pipeline/allowance";
import { pool } from "../work/pool";

/** A file that may become a frame; it is opened when its turn comes. */
export interface Incoming {
  name: string;
  /** where it lay, without its own name */
  folder?: string;
  /** bytes */
  size: number;
  type: string;
  /** what a file beside it says of it */
  words?: Words;
  open(signal: AbortSignal): Promise<Blob>;
}

export const isPicture = (file: File): boolean =>
  isPictureName(file.name) || isPictureType(file.type);
export const isZip = (file: File): boolean => /\.zip$/i.test(file.name);

/** Where a file lay, and what its sidecar may be called there. */
const placesOf = ({ name, folder = "" }: Incoming): string[] =>
  sidecarNames(name).map((sidecar) => `${folder}/${sidecar}`);

/** Reads the sidecars among files, by where they lay. */
async function readSidecars(files: readonly File[]): Promise<Map<string, Words>> {
  const words = new Map<string, Words>();
  for (const file of files) {
    const { folder = "", name } = incomingFile(file);
    words.set(
      `${folder}/${name.toLowerCase()}`,
      readSidecar(new Uint8Array(await file.arrayBuffer())),
    );
  }
  return words;
}

/** A file as it was chosen; a camera's number may come again in another folder, so that is kept. */
export function incomingFile(file: File): Incoming {
  const folder = file.webkitRelativePath.replace(/\/?[^/]*$/, "");
  const { name, size, type } = file;
  return { name, size, type, ...(folder ? { folder } : {}), open: () => Promise.resolve(file) };
}

/** The pictures of a zip, each unpacked when its turn comes. */
async function incomingOfZip(
  zip: File,
  signal: AbortSignal,
): Promise<{ incoming: Incoming[]; failed: RhizomeError[] }> {
  const { pictures, leftOut } = await pool().run(
    "listZip",
    { name: zip.name, blob: zip },
    { signal, subject: zip.name, allowanceMs: inspectingAllowance(zip.size) },
  );
  const incoming = pictures.map((picture): Incoming => ({
    name: picture.name,
    size: picture.bytes,
    type: "",
    open: (stop) =>
      pool().run(
        "unpackZipped",
        { name: zip.name, blob: zip, picture },
        { signal: stop, subject: picture.name, allowanceMs: inspectingAllowance(picture.bytes) },
      ),
  }));
  return { incoming, failed: leftOut };
}

/** The files in the order of their names, with those in zips instead of the zips. */
export async function incomingOf(
  files: readonly File[],
  signal: AbortSignal,
): Promise<{ incoming: Incoming[]; failed: RhizomeError[] }> {
  const incoming: Incoming[] = [];
  const failed: RhizomeError[] = [];
  const sidecars = await readSidecars(files.filter(({ name }) => isSidecarName(name)));
  for (const file of files.filter(({ name }) => !isSidecarName(name))) {
    if (!isZip(file)) {
      incoming.push(incomingFile(file));
      continue;
    }
    try {
      const found = await incomingOfZip(file, signal);
      incoming.push(...found.incoming);
      failed.push(...found.failed);
    } catch (e) {
      const error = RhizomeError.from(e);
      if (error.code !== "stopped") failed.push(error);
    }
  }
  for (const one of incoming) {
    const words = placesOf(one)
      .map((place) => sidecars.get(place))
      .find((found) => found !== undefined);
    if (words) one.words = words;
  }
  incoming.sort((a, b) => byName(a.name, b.name));
  return { incoming, failed };
}
