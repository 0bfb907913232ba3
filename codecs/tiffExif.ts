/**
 * Adds an EXIF block to a TIFF file: its camera tags to the first directory, its EXIF directory behind the file.
 * A TIFF is a header and linked directories (TIFF 6.0, section 2); the block, from a JPEG, is itself a small TIFF
 * (EXIF 2.32, section 4.5), so its entries are moved over and their offsets made new.
 *
 * @param tiff   little-endian, one picture
 * @param block  "Exif\0\0" and a TIFF structure, or undefined
 */
export function withExif(tiff: Uint8Array, block: Uint8Array | undefined): Uint8Array {
  if (!block) return tiff;
  const start = block[0] === 0x45 && block[1] === 0x78 ? 6 : 0;
  const from = new DataView(block.buffer, block.byteOffset + start, block.byteLength - start);
  const little = from.byteLength > 8 && from.getUint16(0) === 0x4949;
  if (!little && !(from.byteLength > 8 && from.getUint16(0) === 0x4d4d)) return tiff;
  const to = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength);
  if (to.getUint16(0) !== 0x4949) return tiff;

  const camera = readDirectory(from, from.getUint32(4, little), little);
  const pointer = camera.find((e) => e.tag === 0x8769);
  const inner = pointer ? readDirectory(from, new DataView(pointer.data.buffer).getUint32(0, true), little).filter((e) => e.tag !== 0x927c && e.tag !== 0xa005) : [];
  // Make, Model, Software, DateTime, Artist, Copyright
  const named = camera.filter((e) => [0x010f, 0x0110, 0x0132, 0x013b, 0x8298].includes(e.tag));

  const at = to.getUint32(4, true), count = to.getUint16(at, true);
  const own: Entry[] = Array.from({ length: count }, (_, i) => {
    const p = at + 2 + i * 12;
    return { tag: to.getUint16(p, true), type: to.getUint16(p + 2, true), count: to.getUint32(p + 4, true), data: tiff.slice(p + 8, p + 12), raw: true };
  });
  const tail: number[] = [];
  const base = tiff.length + (tiff.length & 1);
  const u16 = (v: number): number[] => [v & 255, (v >> 8) & 255], u32 = (v: number): number[] => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >>> 24) & 255];
  const directory = (entries: Entry[]): number => {
    entries.sort((a, b) => a.tag - b.tag);
    const table: number[] = [...u16(entries.length)];
    for (const e of entries) {
      table.push(...u16(e.tag), ...u16(e.type), ...u32(e.count));
      if (e.raw || e.data.length <= 4) table.push(...e.data, ...new Array<number>(4 - e.data.length).fill(0));
      else { if (tail.length & 1) tail.push(0); table.push(...u32(base + tail.length)); tail.push(...e.data); }
    }
    table.push(...u32(0));
    if (tail.length & 1) tail.push(0);
    const where = base + tail.length;
    tail.push(...table);
    return where;
  };
  const exifAt = inner.length ? directory(inner) : 0;
  const has = new Set(own.map((e) => e.tag));
  const all = [...own, ...named.filter((e) => !has.has(e.tag))];
  if (exifAt) all.push({ tag: 0x8769, type: 4, count: 1, data: Uint8Array.from(u32(exifAt)) });
  const first = directory(all);
  const out = new Uint8Array(base + tail.length);
  out.set(tiff);
  out.set(tail, base);
  new DataView(out.buffer).setUint32(4, first, true);
  return out;
}

interface Entry { tag: number; type: number; count: number; data: Uint8Array; /** the four bytes as they stand */ raw?: boolean }
const SIZES: Record<number, number> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8 };

/** Entries with their data in little-endian order; what points outside the block is left out. */
function readDirectory(d: DataView, at: number, little: boolean): Entry[] {
  if (at + 2 > d.byteLength) return [];
  const out: Entry[] = [];
  for (let i = 0, n = d.getUint16(at, little); i < n && at + 14 + i * 12 <= d.byteLength; i++) {
    const p = at + 2 + i * 12, type = d.getUint16(p + 2, little), count = d.getUint32(p + 4, little);
    const size = SIZES[type];
    if (!size || count > 65535) continue;
    const bytes = size * count, q = bytes <= 4 ? p + 8 : d.getUint32(p + 8, little);
    if (q + bytes > d.byteLength) continue;
    const data = new Uint8Array(bytes), unit = type === 5 || type === 10 ? 4 : size;
    for (let k = 0; k < bytes; k++) data[k] = d.getUint8(q + (little || unit === 1 ? k : Math.floor(k / unit) * unit + (unit - 1 - (k % unit))));
    out.push({ tag: d.getUint16(p, little), type, count, data });
  }
  return out;
}
