import { Zip, ZipPassThrough } from "fflate";

/** A file that goes to the user. */
export interface OutFile {
  name: string;
  content: Blob;
}

/** How long the browser may take to fetch what is handed to it, ms. */
export const FETCHED_WITHIN_MS = 60000;
/** Bytes that are put into a zip at once, so that the page answers meanwhile. */
const SLICE = 1 << 21;

/** Hands a file to the browser as a download. */
export function handOver({ name, content }: OutFile): void {
  const url = URL.createObjectURL(content);
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), FETCHED_WITHIN_MS);
}

type Bytes = Uint8Array<ArrayBuffer>;

/**
 * Several files as one zip, as they are: pictures do not get smaller by packing. No more than a
 * slice of them is in memory.
 *
 * @param write  takes the zip's next bytes; it is waited for
 */
export async function zipInto(
  files: Iterable<OutFile>,
  write: (bytes: Bytes) => Promise<unknown> | void,
): Promise<void> {
  let ready: Bytes[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) throw error;
    ready.push(chunk as Bytes);
  });
  const flush = async (): Promise<void> => {
    const chunks = ready;
    ready = [];
    for (const chunk of chunks) await write(chunk);
  };
  for (const { name, content } of files) {
    const entry = new ZipPassThrough(name);
    zip.add(entry);
    for (let at = 0; at < content.size; at += SLICE) {
      entry.push(new Uint8Array(await content.slice(at, at + SLICE).arrayBuffer()));
      await flush();
    }
    entry.push(new Uint8Array(0), true);
  }
  zip.end();
  await flush();
}

/** Several files as one zip in memory. */
export async function zipped(files: readonly OutFile[]): Promise<Blob> {
  const parts: BlobPart[] = [];
  await zipInto(files, (bytes) => void parts.push(bytes));
  return new Blob(parts, { type: "application/zip" });
}
