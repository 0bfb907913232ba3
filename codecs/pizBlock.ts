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
  next(): number {
    const bit = (this.bytes[this.at >> 3]! >> (7 - (this.at & 7))) & 1;
    this.at++;
    return bit;
  }
  take(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++) value = value * 2 + this.next();
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

/** Codes by their lengths: the first of each length, and what they stand for, in their order. */
function codesByLength(lengths: Uint8Array): { first: number[]; values: number[][] } {
  const values: number[][] = Array.from({ length: LONGEST_CODE + 1 }, () => []);
  lengths.forEach((length, value) => {
    if (length) values[length]!.push(value);
  });
  const first: number[] = [];
  let code = 0;
  for (let length = LONGEST_CODE; length > 0; length--) {
    first[length] = code;
    code = Math.floor((code + values[length]!.length) / 2);
  }
  return { first, values };
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
  if (countValues(bits, bitCount, codesByLength(lengths), last, values) > values) throw broken();
}

/** How many values some bits stand for; stops as soon as they are more than `most`. */
function countValues(
  bits: Bits,
  bitCount: number,
  { first, values }: ReturnType<typeof codesByLength>,
  runCode: number,
  most: number,
): number {
  const end = bits.at + bitCount;
  let count = 0;
  while (bits.at < end && count <= most) {
    let code = 0;
    let length = 0;
    let value: number | undefined;
    while (value === undefined && bits.at < end && length < MOST_CODE_BITS) {
      code = code * 2 + bits.next();
      length++;
      value = values[length]![code - first[length]!];
    }
    // what is no code is refused where it is unpacked
    if (value === undefined) return count;
    count += value === runCode ? bits.take(RUN_BITS) : 1;
  }
  return count;
}
