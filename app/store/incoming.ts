import { isPictureName, isPictureType } from "../../codecs/inputFormats";
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
  open(signal: AbortSignal): Promise<Blob>;
}

export const isPicture = (file: File): boolean =>
  isPictureName(file.name) || isPictureType(file.type);
export const isZip = (file: File): boolean => /\.zip$/i.test(file.name);

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
  for (const file of files) {
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
  incoming.sort((a, b) => byName(a.name, b.name));
  return { incoming, failed };
}
