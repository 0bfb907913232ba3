import { Zip, ZipPassThrough } from "fflate";

/** A file that goes to the user. */
export interface OutFile {
  name: string;
  content: Blob;
}

/** How long the browser may take to fetch what is handed to it, ms. */
const FETCHED_WITHIN_MS = 60000;
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

/** Several files as one zip, as they are: pictures do not get smaller by packing. */
export async function zipped(files: readonly OutFile[]): Promise<Blob> {
  const parts: BlobPart[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) throw error;
    parts.push(chunk as Uint8Array<ArrayBuffer>);
  });
  for (const { name, content } of files) {
    const entry = new ZipPassThrough(name);
    zip.add(entry);
    for (let at = 0; at < content.size; at += SLICE)
      entry.push(new Uint8Array(await content.slice(at, at + SLICE).arrayBuffer()));
    entry.push(new Uint8Array(0), true);
  }
  zip.end();
  return new Blob(parts, { type: "application/zip" });
}
