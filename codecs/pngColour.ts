import type { Parts } from "./stream";

/** Bytes of a PNG's signature and its first chunk, the header. */
const HEADER_END = 8 + 25;

/**
 * The chunk by which a PNG says that its colours are Rec. 2020 (9), its samples coded by SMPTE ST
 * 2084 (16), RGB (0) over the whole range (1), as ITU-T H.273 numbers them; with its length and its
 * check sum (PNG, third edition, 11.3.2.6).
 */
const PQ_REC2020 = Uint8Array.of(
  ...[0, 0, 0, 4],
  ...new TextEncoder().encode("cICP"),
  ...[9, 16, 0, 1],
  ...[0x4d, 0x23, 0x23, 0xfe],
);

/** A PNG that says that its samples are coded by brightness. @param parts  of the file, in order */
export function withPqCode(parts: Parts): Parts {
  const [first, ...rest] = parts;
  return [first!.slice(0, HEADER_END), PQ_REC2020, first!.slice(HEADER_END), ...rest];
}
