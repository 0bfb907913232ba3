import { joined, type Parts } from "./stream";

/**
 * Adds an EXIF block to a TIFF file: its camera tags to the first directory, its EXIF directory
 * behind the file. A TIFF is a header and linked directories (TIFF 6.0, section 2); the block, from
 * a JPEG, is itself a small TIFF (EXIF 2.32, section 4.5), so its entries are moved over and their
 * offsets made new.
 *
 * @param tiff   pieces of a little-endian file with one picture, whose directory follows its
 *   pixels; the first is changed
 * @param block  "Exif\0\0" and a TIFF structure, or undefined
 */
export function addExif(tiff: Parts, block: Uint8Array | undefined): Parts {
  if (!block) return tiff;
  const { from, little = false } = structureOf(block) ?? {};
  if (!from) return tiff;
  const head = new DataView(tiff[0]!.buffer, tiff[0]!.byteOffset, tiff[0]!.byteLength);
  const length = tiff.reduce((s, p) => s + p.length, 0);
  // one of longer addresses is built otherwise
  if (head.getUint16(0) !== 0x4949 || head.getUint16(2, true) !== 42) return tiff;

  const camera = readDirectory(from, from.getUint32(4, little), little);
  const pointer = camera.find((e) => e.tag === 0x8769);
  const inner = pointer
    ? readDirectory(from, new DataView(pointer.data.buffer).getUint32(0, true), little).filter(
        (e) => e.tag !== 0x927c && e.tag !== 0xa005,
      )
    : [];
  // Make, Model, Software, DateTime, Artist, Copyright
  const named = camera.filter((e) => [0x010f, 0x0110, 0x0132, 0x013b, 0x8298].includes(e.tag));

  const table = bytesAt(tiff, head.getUint32(4, true), 2 + 12 * MOST_ENTRIES);
  const to = new DataView(table.buffer);
  const own: Entry[] = Array.from({ length: to.getUint16(0, true) }, (_, i) => {
    const p = 2 + i * 12;
    return {
      tag: to.getUint16(p, true),
      type: to.getUint16(p + 2, true),
      count: to.getUint32(p + 4, true),
      data: table.slice(p + 8, p + 12),
      raw: true,
    };
  });
  const tail: number[] = [];
  const base = length + (length & 1);
  const u16 = (v: number): number[] => [v & 255, (v >> 8) & 255];
  const u32 = (v: number): number[] => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >>> 24) & 255];
  const directory = (entries: Entry[]): number => {
    entries.sort((a, b) => a.tag - b.tag);
    const rows: number[] = [...u16(entries.length)];
    for (const e of entries) {
      rows.push(...u16(e.tag), ...u16(e.type), ...u32(e.count));
      if (e.raw || e.data.length <= 4)
        rows.push(...e.data, ...new Array<number>(4 - e.data.length).fill(0));
      else {
        if (tail.length & 1) tail.push(0);
        rows.push(...u32(base + tail.length));
        tail.push(...e.data);
      }
    }
    rows.push(...u32(0));
    if (tail.length & 1) tail.push(0);
    const where = base + tail.length;
    tail.push(...rows);
    return where;
  };
  const exifAt = inner.length ? directory(inner) : 0;
  const has = new Set(own.map((e) => e.tag));
  const all = [...own, ...named.filter((e) => !has.has(e.tag))];
  if (exifAt) all.push({ tag: 0x8769, type: 4, count: 1, data: Uint8Array.from(u32(exifAt)) });
  const first = directory(all);
  head.setUint32(4, first, true);
  return [...tiff, Uint8Array.from([...new Array<number>(base - length).fill(0), ...tail])];
}

/** The TIFF structure of an EXIF block; undefined where there is none. */
function structureOf(block: Uint8Array): { from: DataView; little: boolean } | undefined {
  const start = block[0] === 0x45 && block[1] === 0x78 ? 6 : 0;
  const from = new DataView(block.buffer, block.byteOffset + start, block.byteLength - start);
  const order = from.byteLength > 8 ? from.getUint16(0) : 0;
  return order === 0x4949 || order === 0x4d4d ? { from, little: order === 0x4949 } : undefined;
}

/** An EXIF block that says another resolution, px an inch, where it says one. */
export function withResolution(block: Uint8Array, ppi: number): Uint8Array {
  const out = block.slice();
  const { from, little = false } = structureOf(out) ?? {};
  if (!from) return out;
  const at = from.getUint32(4, little);
  const count = at + 2 <= from.byteLength ? from.getUint16(at, little) : 0;
  for (let p = at + 2; p < at + 2 + count * 12 && p + 12 <= from.byteLength; p += 12) {
    const tag = from.getUint16(p, little);
    const where = from.getUint32(p + 8, little);
    if (tag === 0x0128) from.setUint16(p + 8, 2, little);
    if ((tag === 0x011a || tag === 0x011b) && where + 8 <= from.byteLength) {
      from.setUint32(where, ppi, little);
      from.setUint32(where + 4, 1, little);
    }
  }
  return out;
}

/** More than any writer puts into a directory. */
const MOST_ENTRIES = 200;

/** Up to n bytes of a file in pieces, from a place on. */
function bytesAt(parts: Parts, at: number, n: number): Uint8Array<ArrayBuffer> {
  let from = at;
  const out: Uint8Array[] = [];
  for (const p of parts) {
    if (from < p.length)
      out.push(p.subarray(from, from + n - out.reduce((s, q) => s + q.length, 0)));
    from = Math.max(0, from - p.length);
  }
  return joined(out);
}

interface Entry {
  tag: number;
  type: number;
  count: number;
  data: Uint8Array;
  /** the four bytes as they stand */
  raw?: boolean;
}
const SIZES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
};

/** Entries with their data in little-endian order; what points outside the block is left out. */
function readDirectory(d: DataView, at: number, little: boolean): Entry[] {
  if (at + 2 > d.byteLength) return [];
  const out: Entry[] = [];
  for (let i = 0, n = d.getUint16(at, little); i < n && at + 14 + i * 12 <= d.byteLength; i++) {
    const p = at + 2 + i * 12;
    const type = d.getUint16(p + 2, little);
    const count = d.getUint32(p + 4, little);
    const size = SIZES[type];
    if (!size || count > 65535) continue;
    const bytes = size * count;
    const q = bytes <= 4 ? p + 8 : d.getUint32(p + 8, little);
    if (q + bytes > d.byteLength) continue;
    const data = new Uint8Array(bytes);
    const unit = type === 5 || type === 10 ? 4 : size;
    for (let k = 0; k < bytes; k++)
      data[k] = d.getUint8(
        q + (little || unit === 1 ? k : Math.floor(k / unit) * unit + (unit - 1 - (k % unit))),
      );
    out.push({ tag: d.getUint16(p, little), type, count, data });
  }
  return out;
}
