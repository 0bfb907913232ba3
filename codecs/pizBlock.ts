import { damaged } from "./limits";

/** Codes that the table of a block may have: one for each 16-bit value, and one for runs. */
const MOST_CODES = 2 ** 16 + 1;
/** Bits of a code's length in the table, and the lengths that stand for runs of codes without one. */
const LENGTH_BITS = 6;
const LONGEST_CODE = 58;
const SHORT_RUN = 59;
const LONG_RUN = 63;
const SHORTEST_RUN = 2;
const SHORTEST_LONG_RUN = SHORTEST_RUN + LONG_RUN - SHORT_RUN;
const RUN_BITS = 8;
/** Longer codes than a block can need: its values are fewer than the Fibonacci number of this. */
const MOST_CODE_BITS = 31;
/** Bytes of the map of values that occur, at most. */
const MAP_BYTES = 8192;
/** Bytes of the head of the packed values: first and last code, two that are not used, bits. */
const HEAD_BYTES = 20;

/** Reads bits from the highest of each byte on. */
class Bits {
  /** in bits from the beginning */
  at: number;
  constructor(
    private readonly bytes: Uint8Array,
    from: number,
  ) {
    this.at = from * 8;
  }
  get end(): number {
    return this.bytes.length * 8;
  }
  bitAt(at: number): number {
    return (this.bytes[at >> 3]! >> (7 - (at & 7))) & 1;
  }
  /** The next bits, at most 16, without going on; behind the end they are 0. */
  peek(count: number): number {
    const { bytes } = this;
    const at = this.at >> 3;
    const three = (bytes[at]! << 16) | (bytes[at + 1]! << 8) | bytes[at + 2]!;
    return (three >> (24 - (this.at & 7) - count)) & ((1 << count) - 1);
  }
  take(count: number): number {
    const value = this.peek(count);
    this.at += count;
    return value;
  }
}

/** The lengths of the codes from `first` to `last`; undefined where the table is broken. */
function readLengths(bits: Bits, first: number, last: number): Uint8Array | undefined {
  const lengths = new Uint8Array(MOST_CODES);
  for (let code = first; code <= last;) {
    if (bits.at + LENGTH_BITS > bits.end) return undefined;
    const length = bits.take(LENGTH_BITS);
    if (length <= LONGEST_CODE) {
      lengths[code++] = length;
      continue;
    }
    const run =
      length === LONG_RUN
        ? bits.take(RUN_BITS) + SHORTEST_LONG_RUN
        : length - SHORT_RUN + SHORTEST_RUN;
    code += run;
    if (code > last + 1) return undefined;
  }
  return lengths;
}

/** Bits by which a code's length is looked up at once; longer ones are rare. */
const TABLE_BITS = 12;
/** Set beside the length of the code that stands for a run. */
const IS_RUN = 64;

/** Canonical codes by their lengths: those of a length follow each other from the first one on. */
interface Codes {
  first: number[];
  count: number[];
  /** length of the code that some bits begin with, 0 for longer ones; with IS_RUN */
  table: Uint8Array;
  /** length of the run's code, which is the last of its length; 0 if there is none */
  runLength: number;
}

/** The codes of some lengths. @param runCode  the highest value, which stands for a run */
function codesOf(lengths: Uint8Array, runCode: number): Codes {
  const count = new Array<number>(LONGEST_CODE + 1).fill(0);
  for (const length of lengths) if (length) count[length]!++;
  const first = new Array<number>(LONGEST_CODE + 1).fill(0);
  let code = 0;
  for (let length = LONGEST_CODE; length > 0; length--) {
    first[length] = code;
    code = Math.floor((code + count[length]!) / 2);
  }
  const codes = {
    first,
    count,
    table: new Uint8Array(1 << TABLE_BITS),
    runLength: lengths[runCode]!,
  };
  // shorter codes go before longer ones that begin like them, as broken tables may have them
  for (let length = TABLE_BITS; length > 0; length--) fillTable(codes, length);
  return codes;
}

function fillTable({ first, count, table, runLength }: Codes, length: number): void {
  const spread = 1 << (TABLE_BITS - length);
  const from = first[length]! * spread;
  const to = from + count[length]! * spread;
  table.fill(length, from, to);
  if (length === runLength) table.fill(length | IS_RUN, to - spread, to);
}

/** Length of the code at which bits stand that is longer than the table's, with IS_RUN; 0 if none. */
function longCode(bits: Bits, { first, count, runLength }: Codes): number {
  let code = bits.peek(TABLE_BITS);
  for (let length = TABLE_BITS + 1; length <= MOST_CODE_BITS; length++) {
    code = code * 2 + bits.bitAt(bits.at + length - 1);
    const place = code - first[length]!;
    if (place < 0 || place >= count[length]!) continue;
    return length === runLength && place === count[length]! - 1 ? length | IS_RUN : length;
  }
  return 0;
}

/**
 * Refuses a block of PIZ whose Huffman codes say more values than the block has (OpenEXR file
 * layout): the library that unpacks it would never come to an end.
 *
 * @param values  16-bit values that the block has
 * @throws RhizomeError `damaged`
 */
export function checkPizBlock(block: Uint8Array, values: number, name: string): void {
  const broken = (): Error => damaged(name, "a block of its pixels is broken");
  const view = new DataView(block.buffer, block.byteOffset, block.byteLength);
  const mapEnds = block.length < 4 ? [0, 0] : [view.getUint16(0, true), view.getUint16(2, true)];
  const [firstByte, lastByte] = mapEnds as [number, number];
  if (lastByte >= MAP_BYTES) throw broken();
  const at = 4 + Math.max(0, lastByte - firstByte + 1) + 4;
  if (at + HEAD_BYTES > block.length) throw broken();
  const first = view.getUint32(at, true);
  const last = view.getUint32(at + 4, true);
  const bitCount = view.getUint32(at + 12, true);
  if (first >= MOST_CODES || last >= MOST_CODES) throw broken();
  const bits = new Bits(block, at + HEAD_BYTES);
  const lengths = readLengths(bits, first, last);
  // the values begin at a whole byte
  bits.at = Math.ceil(bits.at / 8) * 8;
  if (!lengths || bits.at + bitCount > bits.end) throw broken();
  if (countValues(bits, bitCount, codesOf(lengths, last), values) > values) throw broken();
}

/** How many values some bits stand for; stops as soon as they are more than `most`. */
function countValues(bits: Bits, bitCount: number, codes: Codes, most: number): number {
  const end = bits.at + bitCount;
  let count = 0;
  while (bits.at < end && count <= most) {
    const found = codes.table[bits.peek(TABLE_BITS)]! || longCode(bits, codes);
    const length = found & ~IS_RUN;
    // what is no code is refused where it is unpacked
    if (!length || bits.at + length > end) return count;
    bits.at += length;
    count += found & IS_RUN ? bits.take(RUN_BITS) : 1;
  }
  return count;
}
