import { RhizomeError } from "../core/error";
import { damaged } from "./limits";

/** What is read of a flat OpenEXR file's header (OpenEXR file layout, version 2). */
export interface ExrHeader {
  width: number;
  height: number;
  /** all channels hold 16-bit floats */
  half: boolean;
  chromaticities?: number[];
  /** bytes of one pixel with all its channels */
  pixelBytes: number;
  /** number of the compression in the file layout */
  compression: number;
  /** of a tiled file */
  tiles?: { width: number; height: number };
  /** first row in the file's own count */
  firstRow: number;
  /** the values of the attributes that pixels are unpacked by, as they stand in the file */
  needed: Map<string, Uint8Array>;
  /** the first byte after the header */
  end: number;
}

/** Bytes of a sample by its type: unsigned integer, half, float. */
const SAMPLE_BYTES = [4, 2, 4];
const HALF = 1;
/** Flags of a file whose pixels are not one flat picture: deep, multi-part. */
const NOT_FLAT = 0x1800;
const MOST_ATTRIBUTES = 500;
/** Bytes of a channel's description after its name. */
const CHANNEL_BYTES = 17;

/** Reads a null-terminated text. */
function textAt(view: DataView, at: number): { text: string; next: number } {
  let end = at;
  while (view.getUint8(end)) end++;
  const bytes = new Uint8Array(view.buffer, view.byteOffset + at, end - at);
  return { text: String.fromCharCode(...bytes), next: end + 1 };
}

/** The types of the channels in the list that stands at `at`. */
function channelTypes(view: DataView, at: number): number[] {
  const types: number[] = [];
  let next = at;
  while (view.getUint8(next)) {
    next = textAt(view, next).next;
    types.push(view.getInt32(next, true));
    next += CHANNEL_BYTES - 1;
  }
  return types;
}

/** What pixels are unpacked by. */
const NEEDED = ["channels", "compression", "dataWindow", "tiles"];

/** Takes one attribute into the header; `at` is where its value stands. */
function takeAttribute(header: ExrHeader, view: DataView, attribute: string, at: number): void {
  const int = (n: number): number => view.getInt32(at + 4 * n, true);
  if (attribute === "dataWindow") {
    header.firstRow = int(1);
    header.width = int(2) - int(0) + 1;
    header.height = int(3) - int(1) + 1;
  } else if (attribute === "chromaticities") {
    header.chromaticities = Array.from({ length: 8 }, (_, i) => view.getFloat32(at + i * 4, true));
  } else if (attribute === "channels") {
    const types = channelTypes(view, at);
    header.half = types.every((type) => type === HALF);
    header.pixelBytes = types.reduce((sum, type) => sum + (SAMPLE_BYTES[type] ?? 4), 0);
  } else if (attribute === "compression") {
    header.compression = view.getUint8(at);
  } else if (attribute === "tiles") {
    header.tiles = { width: int(0), height: int(1) };
  }
}

/**
 * The header of a flat scan-line or tiled file.
 *
 * @throws RhizomeError `damaged`, `unsupported`
 */
export function readExrHeader(bytes: Uint8Array, name: string): ExrHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const header: ExrHeader = {
    width: 0,
    height: 0,
    half: true,
    pixelBytes: 0,
    compression: 0,
    firstRow: 0,
    needed: new Map(),
    end: 0,
  };
  try {
    if (view.getUint32(4, true) & NOT_FLAT)
      throw new RhizomeError(
        "unsupported",
        `${name} is a deep or multi-part EXR file.`,
        "save it as one flat picture",
      );
    let at = 8;
    for (let n = 0; n < MOST_ATTRIBUTES; n++) {
      const attribute = textAt(view, at);
      if (!attribute.text) return { ...header, end: attribute.next };
      const type = textAt(view, attribute.next);
      const size = view.getUint32(type.next, true);
      const value = type.next + 4;
      takeAttribute(header, view, attribute.text, value);
      if (NEEDED.includes(attribute.text))
        // a copy also of Node's buffers, whose own slices are views
        header.needed.set(attribute.text, new Uint8Array(bytes.subarray(value, value + size)));
      at = value + size;
    }
  } catch (e) {
    throw damaged(name, e);
  }
  throw damaged(name, "its header does not end");
}
