import { ZipOut } from "../../codecs/zipWriter";

/** A file that goes to the user. */
export interface OutFile {
  name: string;
  content: Blob;
}

/** How long the browser may take to fetch what is handed to it, ms. */
export const FETCHED_WITHIN_MS = 60000;

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
 * Several files as one zip. No more than a piece of them is in memory.
 *
 * @param write  takes the zip's next bytes; it is waited for
 */
export async function zipInto(
  files: Iterable<OutFile>,
  write: (bytes: Bytes) => Promise<unknown> | void,
): Promise<void> {
  const zip = new ZipOut(new WritableStream({ write: async (bytes) => void (await write(bytes)) }));
  for (const { name, content } of files) await zip.add(name, content);
  await zip.close();
}

/** Several files as one zip in memory. */
export async function zipped(files: readonly OutFile[]): Promise<Blob> {
  const parts: BlobPart[] = [];
  await zipInto(files, (bytes) => void parts.push(bytes));
  return new Blob(parts, { type: "application/zip" });
}
