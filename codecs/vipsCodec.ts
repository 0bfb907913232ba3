import type { SoftProofTable } from "../core/output/softProof";
import { softProofTable } from "./softProof";
import type { Codec, Decoder, EncodeInput, Decoded } from "./codec";
import { joined, type Parts, pictureOf, partsTarget } from "./stream";
import { gainMapOf, withGainMap } from "./gainMapJpeg";
import { hasGainMap } from "./gainMapMarks";
import {
  type Engine,
  type Picture,
  uprightSize,
  metadataOf,
  keptMetadata,
  carryExif,
} from "./vipsMetadata";
import { inputFormatOf } from "./inputFormats";
import { damaged, checkSize } from "./limits";
import { checkHeldWhole, checkJpegLength, checkWebpLength } from "./heldWhole";
import type { FrameFormat } from "../core/frame/frame";
import { RhizomeError } from "../core/error";
import { type InputColour, readMatrixProfile, colourOfSpace, writeProfile } from "./icc";
import { LINEAR_CURVES, linearFloats, tables } from "./vipsColour";
import { readExif } from "./exif";
import { gathered } from "./strips";
import { type SampleType, sampleTypeOf, type Samples } from "../kernels/heap";
import { makeFinite } from "./finiteSamples";
import { boxReduce } from "./boxReduce";
import { multiply, apply } from "../core/math/matrix3";
import { fromWorking, encode, SPACES } from "../core/colour/spaces";
import { clamp } from "../core/math/clamp";
import { withinLimit } from "./withinLimit";
import { writeXmp } from "./xmp";
import { OUTPUT_FORMATS } from "./outputFormats";
import { VIPS_SAVERS, type VipsSaved } from "./vipsSavers";
import { withDisplayCode } from "./pngColour";
import { withCodeProperty } from "./avifColour";
import { addExif } from "./tiffExif";
import type Vips from "wasm-vips";

type SoftProofInput = Parameters<Codec["softProofTable"]>;
type VipsInput = Omit<EncodeInput, "format"> & { format: VipsSaved };
/**
 * Samples read at once, about; in whole blocks of a JPEG at any reduction, and of every reduction's
 * squares.
 */
const STRIP = 3e6;
const BLOCKS = 64;
const DEPTHS: Record<string, 8 | 16 | 32> = { uchar: 8, ushort: 16, float: 32 };

export interface VipsCodec extends Decoder {
  encode(input: VipsInput): Parts;
  /** a small JPEG of decoded samples, for formats that libvips does not read */
  encodeThumbnail(d: Decoded, longEdge: number): Uint8Array;
  softProofTable: (...how: SoftProofInput) => SoftProofTable;
}

/**
 * JPEG, PNG, TIFF, WebP, AVIF and Radiance through libvips; profiles of the matrix kind by our own
 * tables, others by its colour engine.
 */
export function vipsCodec(vips: Engine): VipsCodec {
  // one frame at a time a worker: the pool is the parallelism, and a cache of operations only holds
  // memory
  vips.concurrency(1);
  vips.Cache.max(0);

  function encodeOnce(input: VipsInput, map: Uint8Array | undefined): Parts {
    const { samples, width, height, format, metadataFrom: from, caption } = input;
    const { type, interpretation } = encodingOf(vips, samples);
    const { image, source } = pictureOf(vips, samples, width, height);
    const { target, parts } = partsTarget(vips);
    const perMm = input.ppi / 25.4;
    let tagged = image.copy({
      xres: perMm,
      yres: perMm,
      interpretation,
    });
    image.delete();
    try {
      // a profile has no such curve: the file says it by a code of its own
      if (!input.displayCode)
        tagged.setBlob("icc-profile-data", writeProfile(input.space, input.linear));
      const read = from && metadataOf(vips, from);
      const origin = read && keptMetadata(read, input.keep);
      if (origin) carryExif(origin, tagged, caption, input.ppi);
      if (caption) {
        const xmp = writeXmp(caption, origin?.xmp, map?.length);
        tagged.setBlob("xmp-data", new TextEncoder().encode(xmp));
      }
      if (input.alpha && OUTPUT_FORMATS[format].alpha) {
        const bytes = vips.Image.newFromMemory(
          input.alpha,
          width,
          height,
          1,
          vips.BandFormat.uchar,
        );
        const scaled =
          type === vips.BandFormat.uchar
            ? bytes
            : bytes.linear(type === vips.BandFormat.ushort ? 257 : 1 / 255, 0);
        const alpha = scaled.cast(type);
        const joined = tagged.bandjoin(alpha);
        for (const p of new Set([bytes, scaled, alpha, tagged])) p.delete();
        tagged = joined;
      }
      VIPS_SAVERS[format](tagged, target, input);
      const say = format === "avif" ? withCodeProperty : withDisplayCode;
      if (input.displayCode) return say(parts(), input.displayCode);
      if (map) return [withGainMap(joined(parts()), map)];
      // a TIFF takes of the block what says nothing of the place
      return format === "tif" && input.keep !== "copyright"
        ? addExif(parts(), read?.exif)
        : parts();
    } finally {
      tagged.delete();
      target.delete();
      source.delete();
    }
  }

  function open(bytes: Uint8Array, name: string, options = ""): Picture {
    const format = inputFormatOf(bytes, name)?.id;
    if (format === "webp") checkWebpLength(name, bytes);
    let image: Picture;
    try {
      image = vips.Image.newFromBuffer(bytes, options, { access: "sequential", fail_on: "error" });
      if (format === "hdr") {
        const coded = image;
        image = coded.rad2float();
        coded.delete();
      }
    } catch (e) {
      throw damaged(name, e);
    }
    try {
      checkSize(name, image.width, image.height);
      if (!DEPTHS[image.format] || image.bands > 5)
        throw new RhizomeError(
          "unsupported",
          `${name} has ${image.bands} channels of type ${image.format}: only 8 and 16 bit and 32-bit floats are read.`,
          "save it as an 8 or 16 bit RGB file",
        );
      if (format) checkPacked(image, bytes, name, format);
    } catch (e) {
      image.delete();
      throw e;
    }
    return image;
  }

  /**
   * To three bands, upright, in the file's own RGB; and what that RGB is. What it made on the way
   * goes to `keep`.
   */
  function toRgb(image: Picture, keep: Picture[]): { rgb: Picture; colour: InputColour } {
    let im = image;
    const next = (p: Picture): Picture => {
      keep.push(im);
      return (im = p);
    };
    const profile = im.getTypeof("icc-profile-data") ? im.getBlob("icc-profile-data") : undefined;
    const float = im.format === "float";
    let colour = profile && readMatrixProfile(profile);
    if (
      profile &&
      !colour &&
      !float &&
      im.interpretation !== "b-w" &&
      im.interpretation !== "grey16"
    ) {
      // a table profile goes through the colour engine, to 16 bit of the widest space that it has
      // built in
      next(im.iccTransform("p3", { embedded: true, depth: 16 }));
      colour = colourOfSpace("p3");
    } else if (im.interpretation === "cmyk") next(im.colourspace("srgb"));
    if (im.bands === 2 || im.bands === 4) next(im.extractBand(0, { n: im.bands - 1 }));
    if (im.bands === 1) next(im.bandjoin([im, im]));
    if (im.bands > 3) next(im.extractBand(0, { n: 3 }));
    if (im.getTypeof("orientation") && im.getInt("orientation") > 1) {
      // turning needs the whole picture at hand
      next(im.copyMemory());
      next(im.autorot());
    }
    return {
      rgb: im,
      colour:
        colour ??
        (float ? { ...colourOfSpace("srgb"), curves: LINEAR_CURVES } : colourOfSpace("srgb")),
    };
  }

  /** The whole size of a picture, upright, by its header. */
  function wholeSize(bytes: Uint8Array, name: string): { width: number; height: number } {
    const head = open(bytes, name);
    const size = uprightSize(head);
    head.delete();
    return size;
  }

  const codec: VipsCodec = {
    inspect(bytes, name) {
      const image = open(bytes, name);
      try {
        const depth = DEPTHS[image.format]!;
        const pages = image.getTypeof("n-pages") ? image.getInt("n-pages") : 1;
        let profile: string;
        if (image.getTypeof("icc-profile-data"))
          profile =
            readMatrixProfile(image.getBlob("icc-profile-data"))?.name ?? "embedded profile";
        else if (depth === 32) profile = "linear sRGB assumed";
        else profile = "sRGB assumed";
        return {
          name,
          format: inputFormatOf(bytes, name)!.id,
          ...uprightSize(image),
          depth,
          profile,
          exif: readExif(packedExif(image, bytes)),
          ...(pages > 1 ? { pages } : {}),
          ...(hasGainMap(bytes) ? { gainMap: true } : {}),
        };
      } finally {
        image.delete();
      }
    },

    decode: (...args) => gathered(codec.decodeStrips)(...args),

    decodeStrips(bytes, name, downscale, take) {
      const format = inputFormatOf(bytes, name)?.id;
      // a JPEG is reduced while it is decoded, where it has that many pixels
      const whole = format === "jpeg" && downscale > 1 ? wholeSize(bytes, name) : undefined;
      const shrinks = whole !== undefined && Math.min(whole.width, whole.height) >= downscale;
      const image = open(bytes, name, shrinks ? `[shrink=${downscale}]` : "");
      const keep: Picture[] = [];
      let read: Picture;
      let colour: InputColour;
      try {
        ({ rgb: read, colour } = toRgb(image, keep));
      } catch (e) {
        for (const p of new Set([image, ...keep])) p.delete();
        throw damaged(name, e);
      }
      let rgb = read;
      try {
        if (shrinks) {
          // the decoder drops what is left over at the right and below
          const [w, h] = [Math.ceil(whole.width / downscale), Math.ceil(whole.height / downscale)];
          if (w !== rgb.width || h !== rgb.height) {
            keep.push(rgb);
            rgb = rgb.embed(0, 0, w, h, { extend: "copy" });
          }
        }
        const reduce = shrinks ? 1 : downscale;
        const width = Math.ceil(rgb.width / reduce);
        const height = Math.ceil(rgb.height / reduce);
        // a TIFF's own strips may end anywhere, and none can be read twice
        const rows =
          format === "jpeg" || format === "png"
            ? Math.max(1, Math.round(STRIP / 3 / rgb.width / BLOCKS)) * BLOCKS
            : rgb.height;
        let type: SampleType = "u8";
        for (let y = 0; y < rgb.height; y += rows) {
          const strip = rgb.crop(0, y, rgb.width, Math.min(rows, rgb.height - y));
          const n = strip.height * rgb.width * 3;
          // given back with the rest, also when a broken file ends the reading here
          keep.push(strip);
          const memory = strip.writeToMemory();
          let own: Uint16Array | Float32Array | Uint8Array;
          if (rgb.format === "ushort") own = new Uint16Array(memory.buffer, memory.byteOffset, n);
          else if (rgb.format === "float")
            own = makeFinite(
              linearFloats(new Float32Array(memory.buffer, memory.byteOffset, n), colour),
            );
          else own = memory as Uint8Array;
          const samples =
            reduce > 1 ? boxReduce(own, rgb.width, strip.height, reduce).samples : own;
          type = sampleTypeOf(samples);
          if (take(samples, (y / reduce) * width * 3, width * height * 3) === false) break;
        }
        return {
          type,
          width,
          height,
          lut: tables(colour, { u8: 256, u16: 65536, f32: 0 }[type]),
          matrix: [...colour.matrix],
        };
      } catch (e) {
        throw damaged(name, e);
      } finally {
        for (const p of keep) p.delete();
        rgb.delete();
      }
    },

    thumbnail(bytes, name, longEdge) {
      const head = open(bytes, name);
      const { width, height } = head;
      head.delete();
      let downscale = 1;
      while (
        inputFormatOf(bytes, name)?.id === "jpeg" &&
        downscale < 8 &&
        Math.max(width, height) / (downscale * 2) >= longEdge
      )
        downscale *= 2;
      const image = open(bytes, name, downscale > 1 ? `[shrink=${downscale}]` : "");
      try {
        // read to the end first: reducing alone would pass over a file that breaks off
        const whole = image.copyMemory();
        const screen = whole.format === "float" ? whole.copy({ interpretation: "scrgb" }) : whole;
        // never enlarged; without a profile of its own it is sRGB already
        const small = screen.thumbnailImage(longEdge, {
          height: longEdge,
          size: "down",
          ...(screen === whole && whole.getTypeof("icc-profile-data")
            ? { output_profile: "srgb" }
            : {}),
        });
        if (screen !== whole) screen.delete();
        whole.delete();
        const shown = small.format === "float" ? small.colourspace("srgb") : small;
        const flat = shown.hasAlpha() ? shown.flatten({ background: [128] }) : shown;
        const jpeg = flat.jpegsaveBuffer({ Q: 80, keep: 0 });
        for (const p of new Set([flat, shown, small])) p.delete();
        return jpeg;
      } catch (e) {
        throw damaged(name, e);
      } finally {
        image.delete();
      }
    },

    softProofTable: (...how) => softProofTable(vips, ...how),

    encodeThumbnail(d, longEdge) {
      const n = d.width * d.height;
      const lut = d.lut;
      const size = lut.length / 3;
      const bytes = new Uint8Array(n * 3);
      const lin = [0, 0, 0];
      const screen = multiply(fromWorking("srgb"), d.matrix);
      for (let i = 0; i < n; i++) {
        for (let c = 0; c < 3; c++) {
          const v = d.samples[i * 3 + c]!;
          lin[c] = size ? lut[c * size + v]! : v;
        }
        const rgb = apply(screen, lin);
        for (let c = 0; c < 3; c++)
          bytes[i * 3 + c] = Math.round(255 * encode(SPACES.srgb.curve, clamp(rgb[c]!, 0, 1)));
      }
      const image = vips.Image.newFromMemory(bytes, d.width, d.height, 3, vips.BandFormat.uchar);
      const small = image.thumbnailImage(longEdge, { height: longEdge, size: "down" });
      const jpeg = small.jpegsaveBuffer({ Q: 80, keep: 0 });
      small.delete();
      image.delete();
      return jpeg;
    },

    encode(input) {
      const holdsMap = OUTPUT_FORMATS[input.format].beyondWhite === "gainMap";
      const map = holdsMap ? gainMapOf(vips, input) : undefined;
      return withinLimit(input, (tried) => encodeOnce(tried, map));
    },
  };
  return codec;
}

/**
 * Refuses by its header what would not fit in memory, or cannot be whole. Of a reduced JPEG the
 * header was checked at full size before.
 */
function checkPacked(image: Picture, bytes: Uint8Array, name: string, format: FrameFormat): void {
  const { width, height, bands } = image;
  const sampleBytes = DEPTHS[image.format]! / 8;
  const isInPasses = image.getTypeof("interlaced") !== 0;
  checkHeldWhole({ name, format, width, height, bands, sampleBytes, isInPasses });
  if (format === "jpeg") checkJpegLength(name, bytes.length, width, height);
}

/** First bytes of EXIF blocks, before the TIFF that they are. */
const EXIF_HEAD = 6;

/** What EXIF is read of: the file, or, where that packs its metadata, what the library unpacked. */
function packedExif(image: Picture, bytes: Uint8Array): Uint8Array {
  if (inputFormatOf(bytes, "")?.id !== "jxl" || !image.getTypeof("exif-data")) return bytes;
  return image.getBlob("exif-data").slice(EXIF_HEAD);
}

/** What the library calls samples of this type. */
function encodingOf(
  vips: typeof Vips,
  samples: Samples,
): { type: Vips.BandFormat; interpretation: Vips.Interpretation | Vips.Enum } {
  if (samples instanceof Float32Array)
    return { type: vips.BandFormat.float, interpretation: "scrgb" };
  if (samples instanceof Uint16Array)
    return { type: vips.BandFormat.ushort, interpretation: "rgb16" };
  return { type: vips.BandFormat.uchar, interpretation: "srgb" };
}
