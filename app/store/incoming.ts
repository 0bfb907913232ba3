import { isPictureName, isPictureType } from "../../codecs/inputFormats";
import type { Words } from "../../codecs/exif";
import { readSidecar } from "../../codecs/sidecar";
import { isSidecarName, sidecarNames } from "../../codecs/sidecarNames";
import { RhizomeError } from "../../core/error";
import { byName } from "../../core/grouping/captureOrder";
import type { ZippedPicture } from "../../codecs/zip";
import { inspectingAllowance } from "../../pipeline/allowance";
import { pool } from "../work/pool";
import type { Frame } from "./records";

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
  /** it stays where it is */
  link?: Frame["link"];
  open(signal: AbortSignal): Promise<Blob>;
}

type Named = Pick<Incoming, "name" | "type">;

export const isPicture = (file: Named): boolean =>
  isPictureName(file.name) || isPictureType(file.type);
export const isZip = (file: Named): boolean => /\.zip$/i.test(file.name);

/** What sidecars say, by where they lay. */
type Sidecars = Map<string, Words>;

const place = (folder: string | undefined, name: string): string =>
  `${folder ?? ""}/${name.toLowerCase()}`;

async function noteSidecar(into: Sidecars, folder: string | undefined, name: string, file: Blob) {
  into.set(place(folder, name), readSidecar(new Uint8Array(await file.arrayBuffer())));
}

/** A file with what a sidecar beside it says. */
function withWords(one: Incoming, sidecars: Sidecars): Incoming {
  const words = sidecarNames(one.name)
    .map((name) => sidecars.get(place(one.folder, name)))
    .find((found) => found !== undefined);
  return words ? { ...one, words } : one;
}

/** A file as it was chosen; a camera's number may come again in another folder, so that is kept. */
export function incomingFile(file: File): Incoming {
  const folder = file.webkitRelativePath.replace(/\/?[^/]*$/, "");
  const { name, size, type } = file;
  return { name, size, type, ...(folder ? { folder } : {}), open: () => Promise.resolve(file) };
}

/** The pictures of a zip, each unpacked when its turn comes. */
async function incomingOfZip(
  { name: zipName, size: zipSize, ...zip }: Incoming,
  signal: AbortSignal,
): Promise<{ incoming: Incoming[]; leftOut: RhizomeError[] }> {
  const blob = await zip.open(signal);
  const { pictures, sidecars, leftOut } = await pool().run(
    "listZip",
    { name: zipName, blob },
    { signal, subject: zipName, allowanceMs: inspectingAllowance(zipSize) },
  );
  const unpack = (picture: ZippedPicture, stop: AbortSignal): Promise<Blob> =>
    pool().run(
      "unpackZipped",
      { name: zipName, blob, picture },
      { signal: stop, subject: picture.name, allowanceMs: inspectingAllowance(picture.bytes) },
    );
  const words: Sidecars = new Map();
  for (const sidecar of sidecars)
    await noteSidecar(words, sidecar.folder, sidecar.name, await unpack(sidecar, signal));
  const incoming = pictures.map((picture) => {
    const { name, folder, bytes: size } = picture;
    const open = (stop: AbortSignal): Promise<Blob> => unpack(picture, stop);
    return withWords({ name, size, type: "", ...(folder ? { folder } : {}), open }, words);
  });
  return { incoming, leftOut };
}

/**
 * The files in the order of their names, with those in zips instead of the zips, and with what
 * sidecars among them say.
 */
export async function incomingOf(
  files: readonly Incoming[],
  signal: AbortSignal,
): Promise<{ incoming: Incoming[]; failed: RhizomeError[]; leftOut: RhizomeError[] }> {
  const incoming: Incoming[] = [];
  const failed: RhizomeError[] = [];
  const leftOut: RhizomeError[] = [];
  const words: Sidecars = new Map();
  for (const one of files) {
    if (isSidecarName(one.name))
      await noteSidecar(words, one.folder, one.name, await one.open(signal));
    else if (!isZip(one)) incoming.push(one);
    else
      try {
        const found = await incomingOfZip(one, signal);
        incoming.push(...found.incoming);
        leftOut.push(...found.leftOut);
      } catch (e) {
        const error = RhizomeError.from(e);
        if (error.code !== "stopped") failed.push(error);
      }
  }
  const known = incoming.map((one) => (one.words ? one : withWords(one, words)));
  return { incoming: known.sort((a, b) => byName(a.name, b.name)), failed, leftOut };
}
