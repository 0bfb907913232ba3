import { EXRLoader } from "three/addons/loaders/EXRLoader.js";
import { FloatType } from "three";
import { toWorking, workingFromPrimaries } from "../core/colour/spaces";
import { greatestCommonDivisor } from "../core/math/greatestCommonDivisor";
import { boxReduce } from "./boxReduce";
import type { Decoded, Decoder } from "./codec";
import { exrBlocks, exrPiece } from "./exrBlocks";
import { readExrHeader, type ExrHeader } from "./exrHeader";
import { checkSize, damaged } from "./limits";
import { brightestOf, hasInfinite, makeFinite } from "./finiteSamples";
import { gathered } from "./strips";

/** Samples unpacked at once, about; in rows that every reduction divides. */
const STRIP = 3e6;
const MOST_REDUCED = 8;

/** A small file's samples, RGB interleaved from the top down. @throws RhizomeError `damaged` */
function parsed(piece: Uint8Array<ArrayBuffer>, name: string): Float32Array {
  const loader = new EXRLoader();
  loader.type = FloatType;
  let read: { width: number; height: number; data: ArrayLike<number> };
  try {
    read = loader.parse(piece.buffer) as never;
  } catch (e) {
    throw damaged(name, e);
  }
  const { width, height, data } = read;
  const channels = data.length / (width * height);
  const [, green, blue] = channels >= 3 ? [0, 1, 2] : [0, 0, 0];
  const samples = new Float32Array(width * height * 3);
  let to = 0;
  // three.js counts rows from the bottom
  for (let y = height - 1; y >= 0; y--)
    for (let x = 0; x < width; x++) {
      const from = (y * width + x) * channels;
      samples[to++] = data[from]!;
      samples[to++] = data[from + green!]!;
      samples[to++] = data[from + blue!]!;
    }
  return samples;
}

/** From the file's linear RGB to the working space. */
function matrixOf({ chromaticities: p }: ExrHeader): number[] {
  if (!p) return [...toWorking("srgb")];
  return [...workingFromPrimaries([p[0]!, p[1]!], [p[2]!, p[3]!], [p[4]!, p[5]!], [p[6]!, p[7]!])];
}

/**
 * OpenEXR through three.js: half and float, in scan lines or tiles, of all its lossless
 * compressions. A file is unpacked some of its blocks at a time.
 */
export function exrCodec(encodeThumbnail: (d: Decoded, longEdge: number) => Uint8Array): Decoder {
  const decoder: Decoder = {
    inspect(bytes, name) {
      const header = readExrHeader(bytes, name);
      checkSize(name, header.width, header.height);
      exrBlocks(header, name);
      return {
        name,
        format: "exr",
        width: header.width,
        height: header.height,
        depth: header.half ? 16 : 32,
        profile: header.chromaticities ? "linear, own primaries" : "linear sRGB assumed",
        exif: {},
      };
    },
    decodeStrips(bytes, name, downscale, take) {
      const header = readExrHeader(bytes, name);
      checkSize(name, header.width, header.height);
      const blocks = exrBlocks(header, name);
      const width = Math.ceil(header.width / downscale);
      const height = Math.ceil(header.height / downscale);
      // so many rows of blocks begin at a row that is whole when reduced
      const whole = MOST_REDUCED / greatestCommonDivisor(MOST_REDUCED, blocks.rows);
      const few = Math.floor(STRIP / 3 / header.width / (blocks.rows * whole));
      const count = Math.max(1, few) * whole;
      const stripAt = (first: number): Float32Array => {
        const taken = Math.min(count, blocks.down - first);
        return parsed(exrPiece(bytes, name, header, blocks, first, taken), name);
      };
      // only a file with infinite samples is read once more for it
      let brightest: number | undefined;
      const brightestOfAll = (): number => {
        let most = 0;
        for (let first = 0; first < blocks.down; first += count)
          most = Math.max(most, brightestOf(stripAt(first)));
        return most;
      };
      for (let first = 0; first < blocks.down; first += count) {
        const strip = stripAt(first);
        if (hasInfinite(strip)) brightest ??= brightestOfAll();
        makeFinite(strip, brightest ?? 0);
        const rows = strip.length / 3 / header.width;
        const { samples } =
          downscale > 1 ? boxReduce(strip, header.width, rows, downscale) : { samples: strip };
        const at = ((first * blocks.rows) / downscale) * width * 3;
        if (take(samples, at, width * height * 3) === false) break;
      }
      return { type: "f32", width, height, lut: new Float32Array(0), matrix: matrixOf(header) };
    },
    decode: (...args) => gathered(decoder.decodeStrips)(...args),
    thumbnail: (bytes, name, longEdge) => encodeThumbnail(decoder.decode(bytes, name, 8), longEdge),
  };
  return decoder;
}
