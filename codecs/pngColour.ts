import { DISPLAY_CODE, type DisplayCode } from "../core/output/displayCode";
import type { Parts } from "./stream";

/** Bytes of a PNG's signature and its first chunk, the header. */
const HEADER_END = 8 + 25;

/** Check sums of the chunks of each code. */
const CHECK_SUMS: Readonly<Record<DisplayCode, readonly number[]>> = {
  pq: [0x4d, 0x23, 0x23, 0xfe],
  hlg: [0x4e, 0xa7, 0xf7, 0x90],
};

/**
 * The chunk by which a PNG says that its colours are Rec. 2020 (9), in which code its samples are,
 * RGB (0) over the whole range (1), as ITU-T H.273 numbers them; with its length and its check sum
 * (PNG, third edition, 11.3.2.6).
 */
const chunkOf = (code: DisplayCode): Uint8Array<ArrayBuffer> =>
  Uint8Array.of(
    ...[0, 0, 0, 4],
    ...new TextEncoder().encode("cICP"),
    ...[9, DISPLAY_CODE[code].transfer, 0, 1],
    ...CHECK_SUMS[code],
  );

/** A PNG that says in which code of displays its samples are. @param parts  of the file, in order */
export function withDisplayCode(parts: Parts, code: DisplayCode): Parts {
  const [first, ...rest] = parts;
  return [first!.slice(0, HEADER_END), chunkOf(code), first!.slice(HEADER_END), ...rest];
}
