import type Vips from "wasm-vips";
import type { EncodeInput } from "./codec";
import { joined } from "./stream";
import { GAIN_OFFSET } from "../core/output/gainRows";
import { gainMapXmp } from "./xmp";

/** Px of the picture that one of the map stands for, each way: gains are smooth, edges excepted. */
const STEP = 2;
/** Of the map's own JPEG. */
const QUALITY = 90;

const APP1 = 0xe1;
const APP2 = 0xe2;
/** Begins the segments of ISO 21496-1. */
const ISO_GAIN_MAP = "urn:iso:std:iso:ts:21496:-1\0";
const XMP = "http://ns.adobe.com/xap/1.0/\0";
/** Parts a unit in which numbers are written as fractions. */
const DENOMINATOR = 1 << 16;
/** Bytes of a start of image, and of a marker with its length. */
const MARKER = 2;
const HEAD = 4;

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Numbers of 16 or 32 bits, the high byte first. */
function numbers(values: readonly (readonly [bits: 16 | 32, value: number])[]): Uint8Array {
  const view = new DataView(new ArrayBuffer(values.reduce((sum, [bits]) => sum + bits / 8, 0)));
  let at = 0;
  for (const [bits, value] of values) {
    if (bits === 16) view.setUint16(at, value);
    else view.setUint32(at, value);
    at += bits / 8;
  }
  return new Uint8Array(view.buffer);
}

function segment(marker: number, ...content: Uint8Array[]): Uint8Array {
  const body = joined(content);
  return joined([Uint8Array.of(0xff, marker), numbers([[16, body.length + 2]]), body]);
}

/** Both versions of ISO 21496-1 that are asked of a reader and were written for. */
const VERSIONS = numbers([
  [16, 0],
  [16, 0],
]);
/** One channel, in the colour space of the picture. */
const FLAGS = Uint8Array.of(0x40);

/** What a gain map's numbers mean, by its headroom in EV (ISO 21496-1:2025, annex C). */
function meaning(headroom: number): Uint8Array {
  const values = [0, headroom, 0, headroom, 1, GAIN_OFFSET, GAIN_OFFSET];
  return joined([
    VERSIONS,
    FLAGS,
    numbers(
      values.flatMap((value) => [
        [32, Math.round(value * DENOMINATOR)] as const,
        [32, DENOMINATOR] as const,
      ]),
    ),
  ]);
}

/**
 * The map of a picture's gains at half its size, as a JPEG that says what its numbers mean;
 * undefined where it has none.
 */
export function gainMapOf(
  vips: typeof Vips,
  { gain, width, height }: Pick<EncodeInput, "gain" | "width" | "height">,
): Uint8Array | undefined {
  if (!gain) return undefined;
  const whole = vips.Image.newFromMemory(gain.values, width, height, 1, vips.BandFormat.uchar);
  const half = whole.shrink(STEP, STEP, { ceil: true });
  try {
    const jpeg = half.jpegsaveBuffer({ Q: QUALITY, keep: vips.ForeignKeep.none });
    return joined([
      jpeg.subarray(0, MARKER),
      segment(APP1, bytesOf(XMP), bytesOf(gainMapXmp(gain.headroom, GAIN_OFFSET))),
      segment(APP2, bytesOf(ISO_GAIN_MAP), meaning(gain.headroom)),
      jpeg.subarray(MARKER),
    ]);
  } finally {
    half.delete();
    whole.delete();
  }
}

/** Attribute of the picture that is seen where only one is: a primary baseline picture. */
const PRIMARY = 0x030000;
/** Bytes of the index, from its letters on. */
const INDEX_BYTES = 86;
const INDEX_LETTERS = "MPF\0";

/**
 * The index of the pictures in a file (CIPA DC-007, "multi-picture format").
 *
 * @param first   bytes of the picture, this index included
 * @param second  bytes of the map
 * @param at      where the index's own offsets count from, in the file
 */
function pictureIndex(first: number, second: number, at: number): Uint8Array {
  const long = (value: number) => [32, value] as const;
  const short = (value: number) => [16, value] as const;
  const [undefinedType, longType] = [7, 4];
  const entriesAt = 8 + 2 + 3 * 12 + 4;
  return joined([
    bytesOf(INDEX_LETTERS),
    bytesOf("MM\0*"),
    numbers([long(8), short(3)]),
    numbers([short(0xb000), short(undefinedType), long(4)]),
    bytesOf("0100"),
    numbers([short(0xb001), short(longType), long(1), long(2)]),
    numbers([short(0xb002), short(undefinedType), long(32), long(entriesAt), long(0)]),
    numbers([long(PRIMARY), long(first), long(0), short(0), short(0)]),
    numbers([long(0), long(second), long(first - at), short(0), short(0)]),
  ]);
}

/** Where a JPEG's segments that say something of it end, and its tables begin. */
function endOfHeads(jpeg: Uint8Array): number {
  const view = new DataView(jpeg.buffer, jpeg.byteOffset, jpeg.byteLength);
  let at = MARKER;
  while (jpeg[at] === 0xff && jpeg[at + 1]! >= 0xe0 && jpeg[at + 1]! <= 0xef)
    at += 2 + view.getUint16(at + 2);
  return at;
}

/**
 * A JPEG that displays with headroom show brighter, and all others as it is: the picture, then a
 * map of its gain, as ISO 21496-1 has it, and as readers know it that came before it (by XMP). The
 * picture's own XMP has to name the map and its length.
 */
export function withGainMap(picture: Uint8Array, map: Uint8Array): Uint8Array<ArrayBuffer> {
  const heads = endOfHeads(picture);
  const version = segment(APP2, bytesOf(ISO_GAIN_MAP), VERSIONS);
  const first = picture.length + version.length + HEAD + INDEX_BYTES;
  const countedFrom = heads + version.length + HEAD + INDEX_LETTERS.length;
  return joined([
    picture.subarray(0, heads),
    version,
    segment(APP2, pictureIndex(first, map.length, countedFrom)),
    picture.subarray(heads),
    map,
  ]);
}
