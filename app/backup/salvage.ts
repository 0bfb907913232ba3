import { DELIVERIES, INDEX, LOOKS, SHOOTS_FOLDER } from "./format";

/** Bytes that are looked through at once. */
const SLICE = 4 * 2 ** 20;
/** First bytes of a file in a zip, and of what may follow it (APPNOTE.TXT 6.3). */
const FILE_MARK = 0x04034b50;
const DESCRIPTOR_MARK = 0x08074b50;
const INDEX_MARK = 0x02014b50;
const P = 0x50;
const HEADER_BYTES = 30;
/** A descriptor has its mark, a checksum and two sizes of four or eight bytes. */
const DESCRIPTOR_BYTES = [16, 24];
const STORED = 0;
const LONGEST_PATH = 1000;

interface Found {
  path: string;
  /** where its header and its content begin */
  headerAt: number;
  contentAt: number;
}

const isOurs = (path: string): boolean =>
  path.startsWith(`${SHOOTS_FOLDER}/`) || [INDEX, LOOKS, DELIVERIES].includes(path);

/** A file's header at a place of some bytes, if there is one of a backup. */
function headerAt(view: DataView, at: number): { path: string; contentAt: number } | undefined {
  if (at + HEADER_BYTES > view.byteLength || view.getUint32(at, true) !== FILE_MARK)
    return undefined;
  const pathBytes = view.getUint16(at + 26, true);
  const extraBytes = view.getUint16(at + 28, true);
  const pathAt = at + HEADER_BYTES;
  if (view.getUint16(at + 8, true) !== STORED || pathBytes > LONGEST_PATH) return undefined;
  if (pathAt + pathBytes > view.byteLength) return undefined;
  const bytes = new Uint8Array(view.buffer, view.byteOffset + pathAt, pathBytes);
  const path = new TextDecoder().decode(bytes);
  return isOurs(path) ? { path, contentAt: pathAt + pathBytes + extraBytes } : undefined;
}

/** All headers of files, in their order; and where the first index entry stands, if it was found. */
async function findHeaders(blob: Blob): Promise<{ found: Found[]; end: number }> {
  const found: Found[] = [];
  for (let from = 0; from < blob.size; from += SLICE) {
    // a header may lie over the end of a slice
    const part = await blob.slice(from, from + SLICE + HEADER_BYTES + LONGEST_PATH).arrayBuffer();
    const bytes = new Uint8Array(part);
    const view = new DataView(part);
    for (let at = bytes.indexOf(P); at >= 0 && at < SLICE; at = bytes.indexOf(P, at + 1)) {
      if (at + 4 <= bytes.length && view.getUint32(at, true) === INDEX_MARK && found.length)
        return { found, end: from + at };
      const header = headerAt(view, at);
      if (header)
        found.push({
          path: header.path,
          headerAt: from + at,
          contentAt: from + header.contentAt,
        });
    }
  }
  return { found, end: blob.size };
}

/** The end of a file's content before `end`: a descriptor may lie between. */
async function contentEnd(blob: Blob, contentAt: number, end: number): Promise<number> {
  for (const length of DESCRIPTOR_BYTES) {
    const at = end - length;
    if (at < contentAt) continue;
    const view = new DataView(await blob.slice(at, at + 4).arrayBuffer());
    if (view.byteLength === 4 && view.getUint32(0, true) === DESCRIPTOR_MARK) return at;
  }
  return end;
}

/**
 * The files of a backup whose index is broken or missing, found by their own headers; the last one
 * may be cut off. A file that stands in it whole is told by its checksum.
 */
export async function salvage(blob: Blob): Promise<Map<string, Blob>> {
  const { found, end } = await findHeaders(blob);
  const files = new Map<string, Blob>();
  for (const [i, { path, contentAt }] of found.entries()) {
    const next = found[i + 1]?.headerAt ?? end;
    files.set(path, blob.slice(contentAt, await contentEnd(blob, contentAt, next)));
  }
  return files;
}
