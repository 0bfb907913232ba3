import type { FrameFormat } from "../core/frame/frame";
import { checkHeld, damaged } from "./limits";

/** What a header says of how its picture is packed. */
interface Packed {
  name: string;
  format: FrameFormat;
  width: number;
  height: number;
  /** channels, and bytes of a sample, where they are known */
  bands?: number;
  sampleBytes?: number;
  /** it comes coarse at first, and finer in several passes */
  isInPasses?: boolean;
}

/** What a decoder that cannot read in strips holds for each pixel, bytes. */
const HELD_BYTES: Partial<Record<FrameFormat, number>> = {
  webp: 7,
  // luminance and colour in 16 bit, then RGB
  avif: 12,
  heic: 12,
  // RGB in floats, then in 16 bit
  jxl: 18,
  // the sensor's samples, the four colours of every pixel, then RGB
  raw: 14,
};
/** Coefficients of the three components of a JPEG in passes, each in 16 bit. */
const JPEG_COEFFICIENT_BYTES = 6;

function heldBytes({ format, isInPasses, bands = 3, sampleBytes = 2 }: Packed): number {
  if (format === "jpeg") return isInPasses ? JPEG_COEFFICIENT_BYTES : 0;
  if (format === "png") return isInPasses ? bands * sampleBytes : 0;
  return HELD_BYTES[format] ?? bands * sampleBytes;
}

/**
 * Refuses what would not fit in memory, by the header alone. EXR bounds itself by its blocks.
 *
 * @throws RhizomeError `too-large`
 */
export function checkHeldWhole(packed: Packed): void {
  const why = packed.isInPasses
    ? "it comes in passes, so all of it is needed at once"
    : `${packed.format.toUpperCase()} is not read in strips`;
  checkHeld(packed.name, packed.width * packed.height, heldBytes(packed), why);
}

/** Pixels along the edge of a JPEG's blocks. */
const JPEG_BLOCK = 8;

/**
 * Refuses a JPEG whose data cannot hold the picture that its header promises: each block takes a bit
 * at least (ITU-T T.81). Its decoder fills what is missing with grey and says nothing.
 *
 * @throws RhizomeError `damaged`
 */
export function checkJpegLength(name: string, bytes: number, width: number, height: number): void {
  const blocks = Math.ceil(width / JPEG_BLOCK) * Math.ceil(height / JPEG_BLOCK);
  if (bytes * 8 < blocks) throw damaged(name, `${bytes} bytes cannot hold ${width} x ${height} px`);
}

/** Bytes before a RIFF file's own count of its length begins. */
const RIFF_HEAD = 8;

/**
 * Refuses a WebP that breaks off: of an animation the first picture may be whole, and its decoder
 * does not look further (RFC 9649).
 *
 * @throws RhizomeError `damaged`
 */
export function checkWebpLength(name: string, bytes: Uint8Array): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < RIFF_HEAD || bytes.length < view.getUint32(4, true) + RIFF_HEAD)
    throw damaged(name, "it breaks off");
}
