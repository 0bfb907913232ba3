import { DISPLAY_CODE, type DisplayCode } from "../core/output/displayCode";
import { joined, type Parts } from "./stream";

/**
 * Colours of Rec. 2020 (9), in a code of displays, in the matrix that the encoder writes (6), over
 * the whole range, as ITU-T H.273 numbers them; in the box that tells it (ISO/IEC 14496-12, 12.1.5).
 */
const propertyOf = (code: DisplayCode): Uint8Array<ArrayBuffer> =>
  Uint8Array.of(
    ...[0, 0, 0, 19],
    ...new TextEncoder().encode("colrnclx"),
    ...[0, 9, 0, DISPLAY_CODE[code].transfer, 0, 6],
    0x80,
  );
/** Size and name of a box. */
const BOX_HEAD = 8;
/** The same of a box with a version. */
const FULL_HEAD = 12;

interface Box {
  /** where it begins, and ends */
  at: number;
  end: number;
}

/** The bytes of a file's first boxes, which are changed as one goes. */
class Boxes {
  constructor(public bytes: Uint8Array<ArrayBuffer>) {}

  private get view(): DataView {
    return new DataView(this.bytes.buffer);
  }

  /** A box within a part of the file. */
  find(name: string, from: number, to: number): Box {
    for (let at = from; at + BOX_HEAD <= to;) {
      const size = this.view.getUint32(at);
      const own = String.fromCharCode(...this.bytes.subarray(at + 4, at + BOX_HEAD));
      if (own === name) return { at, end: at + size };
      if (size < BOX_HEAD) break;
      at += size;
    }
    throw new Error(`the encoder wrote no ${name}`);
  }

  /** Puts bytes into the file and tells the boxes that they lie in. */
  insert(at: number, bytes: Uint8Array, within: readonly Box[]): void {
    this.bytes = joined([this.bytes.subarray(0, at), bytes, this.bytes.subarray(at)]);
    for (const box of within)
      this.view.setUint32(box.at, this.view.getUint32(box.at) + bytes.length);
  }

  number(at: number, bytes: number): number {
    let value = 0;
    for (let i = 0; i < bytes; i++) value = value * 256 + this.bytes[at + i]!;
    return value;
  }

  setNumber(at: number, bytes: number, value: number): void {
    for (let i = 0; i < bytes; i++)
      this.bytes[at + i] = Math.floor(value / 256 ** (bytes - 1 - i)) % 256;
  }
}

/**
 * An AVIF that says in which code of displays its samples are: a property more for every picture in
 * it (ISO/IEC 23008-12, 9.3).
 *
 * @param parts  of a file without a profile, in order; what tells of its pictures comes first
 */
export function withCodeProperty(parts: Parts, code: DisplayCode): Parts {
  const told = propertyOf(code);
  const [first, ...rest] = parts;
  const boxes = new Boxes(first!.slice());
  const before = boxes.bytes.length;
  const meta = boxes.find("meta", 0, before);
  const properties = boxes.find("iprp", meta.at + FULL_HEAD, meta.end);
  const list = boxes.find("ipco", properties.at + BOX_HEAD, properties.end);
  let count = 0;
  for (let at = list.at + BOX_HEAD; at < list.end; at += boxes.number(at, 4)) count++;
  boxes.insert(list.end, told, [meta, properties, list]);
  const end = properties.end + told.length;
  const uses = boxes.find("ipma", list.end + told.length, end);
  addUse(boxes, uses, count + 1, [meta, properties, uses]);
  movePictures(boxes, meta, boxes.bytes.length - before);
  return [boxes.bytes, ...rest];
}

/** Every item of a file has a property more. @param index  of the property, from 1 */
function addUse(boxes: Boxes, uses: Box, index: number, within: readonly Box[]): void {
  const version = boxes.number(uses.at + BOX_HEAD, 1);
  const isWide = (boxes.number(uses.at + BOX_HEAD + 3, 1) & 1) === 1;
  const items = boxes.number(uses.at + FULL_HEAD, 4);
  let at = uses.at + FULL_HEAD + 4;
  for (let item = 0; item < items; item++) {
    at += version < 1 ? 2 : 4;
    const associations = boxes.number(at, 1);
    boxes.setNumber(at, 1, associations + 1);
    at += 1 + associations * (isWide ? 2 : 1);
    const use = isWide ? Uint8Array.of(index >> 8, index & 255) : Uint8Array.of(index);
    boxes.insert(at, use, within);
    at += use.length;
  }
}

/** Tells where pictures lie that were moved by so many bytes (ISO/IEC 14496-12, 8.11.3). */
function movePictures(boxes: Boxes, meta: Box, by: number): void {
  const size = boxes.number(meta.at, 4);
  const places = boxes.find("iloc", meta.at + FULL_HEAD, meta.at + size);
  const version = boxes.number(places.at + BOX_HEAD, 1);
  let at = places.at + FULL_HEAD;
  const [offsetBytes, lengthBytes] = [boxes.number(at, 1) >> 4, boxes.number(at, 1) & 15];
  const [baseBytes, last] = [boxes.number(at + 1, 1) >> 4, boxes.number(at + 1, 1) & 15];
  const indexBytes = version > 0 ? last : 0;
  at += 2;
  const idBytes = version < 2 ? 2 : 4;
  const items = boxes.number(at, idBytes);
  at += idBytes;
  for (let item = 0; item < items; item++) {
    at += idBytes;
    // others lie within the box of places itself, which moves with it
    const isInFile = version === 0 || (boxes.number(at, 2) & 15) === 0;
    at += (version > 0 ? 2 : 0) + 2;
    const isByBase = baseBytes > 0 && boxes.number(at, baseBytes) > 0;
    if (isInFile && isByBase) boxes.setNumber(at, baseBytes, boxes.number(at, baseBytes) + by);
    at += baseBytes;
    const extents = boxes.number(at, 2);
    at += 2;
    for (let extent = 0; extent < extents; extent++) {
      at += indexBytes;
      if (isInFile && !isByBase)
        boxes.setNumber(at, offsetBytes, boxes.number(at, offsetBytes) + by);
      at += offsetBytes + lengthBytes;
    }
  }
}
