import { RhizomeError } from "../core/error";
import type { ExrHeader } from "./exrHeader";
import { damaged } from "./limits";
import { checkPizBlock } from "./pizBlock";
import { joined } from "./stream";

/** Rows of a scan-line block, by the number of the compression in the file layout. */
const BLOCK_ROWS = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];
/** Bytes before a block's pixels: its row and its size, or a tile's place, level and size. */
const SCAN_LINE_HEAD = 8;
const TILE_HEAD = 20;
/** Most bytes of one block that is unpacked, whatever the file says. */
const LARGEST_BLOCK = 2 ** 29;

/** How a file is cut: `across` blocks beside each other, `down` below each other. */
export interface ExrBlocks {
  rows: number;
  columns: number;
  across: number;
  down: number;
}

/** How a file is cut into blocks. @throws RhizomeError `damaged`, `too-large` */
export function exrBlocks(header: ExrHeader, name: string): ExrBlocks {
  const { width, height, tiles } = header;
  const rows = tiles?.height ?? BLOCK_ROWS[header.compression];
  const columns = tiles?.width ?? width;
  if (!rows || !(rows > 0 && columns > 0)) throw damaged(name, "its blocks have no size");
  const blockBytes = Math.min(rows, height) * Math.min(columns, width) * header.pixelBytes;
  if (blockBytes > LARGEST_BLOCK)
    throw new RhizomeError(
      "too-large",
      `${name} is packed in blocks of ${Math.round(blockBytes / 2 ** 20)} MiB.`,
      "save it in scan lines or in smaller tiles",
    );
  return { rows, columns, across: Math.ceil(width / columns), down: Math.ceil(height / rows) };
}

/** The number of a compression whose blocks are looked into before they are unpacked. */
const PIZ = 4;

/** Refuses what would not unpack to the pixels that a block has. @throws RhizomeError `damaged` */
function checkBlock(
  packed: Uint8Array,
  name: string,
  header: ExrHeader,
  { rows, columns, across }: ExrBlocks,
  block: number,
): void {
  const height = Math.min(rows, header.height - Math.floor(block / across) * rows);
  const width = Math.min(columns, header.width - (block % across) * columns);
  const bytes = width * height * header.pixelBytes;
  // what did not get smaller stands as it is
  if (header.compression === PIZ && packed.length < bytes) checkPizBlock(packed, bytes / 2, name);
}

/** Types of the attributes that a piece has, in the file layout's words. */
const TYPES: Record<string, string> = {
  channels: "chlist",
  compression: "compression",
  dataWindow: "box2i",
  tiles: "tiledesc",
};
/** First bytes of a file: its mark, its version with a flag for tiles. */
const MARK = [0x76, 0x2f, 0x31, 0x01] as const;
const VERSION = 2;
const TILED = 0x200;
/** Where in a window its first and last row stand, and in the tiles' description their levels. */
const FIRST_ROW_AT = 4;
const LAST_ROW_AT = 12;
const LEVELS_AT = 8;

const uint32 = (n: number): Uint8Array => new Uint8Array(Uint32Array.of(n).buffer);

/** The header of a piece with rows `from` up to `to` of the picture. */
function pieceHeader(header: ExrHeader, from: number, to: number): Uint8Array[] {
  const parts: Uint8Array[] = [Uint8Array.from(MARK), uint32(VERSION | (header.tiles ? TILED : 0))];
  for (const [attribute, value] of header.needed) {
    const own = value.slice();
    const view = new DataView(own.buffer);
    if (attribute === "dataWindow") {
      view.setInt32(FIRST_ROW_AT, header.firstRow + from, true);
      view.setInt32(LAST_ROW_AT, header.firstRow + to - 1, true);
    }
    // smaller copies of the picture are left aside
    if (attribute === "tiles") own[LEVELS_AT] = 0;
    const words = new TextEncoder().encode(`${attribute}\0${TYPES[attribute]}\0`);
    parts.push(words, uint32(own.length), own);
  }
  parts.push(Uint8Array.of(0));
  return parts;
}

/**
 * A file of its own with only some of the rows of blocks of another: so a large one is unpacked
 * piece by piece. The index of the blocks, after the header, is what leads to them.
 *
 * @param first  the first row of blocks
 * @param count  how many rows of blocks
 * @throws RhizomeError `damaged`
 */
export function exrPiece(
  bytes: Uint8Array,
  name: string,
  header: ExrHeader,
  cut: ExrBlocks,
  first: number,
  count: number,
): Uint8Array<ArrayBuffer> {
  const { rows, across } = cut;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const headBytes = header.tiles ? TILE_HEAD : SCAN_LINE_HEAD;
  const blocks: Uint8Array[] = [];
  for (let block = first * across; block < (first + count) * across; block++) {
    const indexAt = header.end + 8 * block;
    const at = indexAt + 8 <= bytes.length ? Number(view.getBigUint64(indexAt, true)) : 0;
    if (at < header.end || at + headBytes > bytes.length)
      throw damaged(name, "a block of its pixels is missing");
    const size = view.getUint32(at + headBytes - 4, true);
    if (at + headBytes + size > bytes.length) throw damaged(name, "it breaks off");
    const own = new Uint8Array(bytes.subarray(at, at + headBytes + size));
    const head = new DataView(own.buffer);
    const row = Math.floor(block / across);
    const isInPlace = header.tiles
      ? head.getInt32(0, true) === block % across && head.getInt32(4, true) === row
      : head.getInt32(0, true) === header.firstRow + row * rows;
    if (!isInPlace) throw damaged(name, "its blocks are out of place");
    checkBlock(own.subarray(headBytes), name, header, cut, block);
    if (header.tiles) head.setInt32(4, row - first, true);
    blocks.push(own);
  }
  const to = Math.min(header.height, (first + count) * rows);
  const index = new Uint8Array(8 * blocks.length);
  return joined([...pieceHeader(header, first * rows, to), index, ...blocks]);
}
