import type Vips from "wasm-vips";
import { apply, multiply } from "../core/math/matrix3";
import { encode, fromWorking, SPACES } from "../core/colour/spaces";
import { RhizomeError } from "../core/error";
import { boxReduce } from "./boxReduce";
import { sampleTypeOf, type SampleType } from "../kernels/heap";
import type { Caption, Decoded, Decoder, EncodeInput } from "./codec";
import { readExif } from "./exif";
import { exifFields } from "./exifFields";
import type { Samples } from "../kernels/heap";
import { makeFinite } from "./finiteSamples";
import { formatOf } from "./format";
import { colourOfSpace, readMatrixProfile, writeProfile, type InputColour } from "./icc";
import { checkSize, damaged } from "./limits";
import { partsTarget, pictureOf, type Parts } from "./stream";
import { gathered } from "./strips";
import { addExif, withResolution } from "./tiffExif";
import { writeXmp } from "./xmp";
import { clamp } from "../core/math/clamp";

type Engine = typeof Vips;
type Picture = Vips.Image;
/**
 * Larger JPEGs are coded in one pass: a second one, for a few percent of their size, would hold all
 * their coefficients.
 */
const TWO_PASS_PX = 12e6;
/**
 * Samples read at once, about; in whole blocks of a JPEG at any reduction, and of every reduction's
 * squares.
 */
const STRIP = 3e6;
const BLOCKS = 64;
const DEPTHS: Record<string, 8 | 16 | 32> = { uchar: 8, ushort: 16, float: 32 };

export interface VipsCodec extends Decoder {
  encode(input: Omit<EncodeInput, "format"> & { format: "jpg" | "png" | "tif" | "hdr" }): Parts;
  /** a small JPEG of decoded samples, for formats that libvips does not read */
  encodeThumbnail(d: Decoded, longEdge: number): Uint8Array;
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

  function open(bytes: Uint8Array, name: string, options = ""): Picture {
    const format = formatOf(bytes, name);
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
          format: formatOf(bytes, name)!,
          ...uprightSize(image),
          depth,
          profile,
          exif: readExif(bytes),
          ...(pages > 1 ? { pages } : {}),
        };
      } finally {
        image.delete();
      }
    },

    decode: (...args) => gathered(codec.decodeStrips)(...args),

    decodeStrips(bytes, name, downscale, take) {
      const format = formatOf(bytes, name);
      const jpeg = format === "jpeg";
      const image = open(bytes, name, jpeg && downscale > 1 ? `[shrink=${downscale}]` : "");
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
        if (jpeg && downscale > 1) {
          // the decoder drops what is left over at the right and below
          const head = open(bytes, name);
          const whole = uprightSize(head);
          const [w, h] = [Math.ceil(whole.width / downscale), Math.ceil(whole.height / downscale)];
          head.delete();
          if (w !== rgb.width || h !== rgb.height) {
            keep.push(rgb);
            rgb = rgb.embed(0, 0, w, h, { extend: "copy" });
          }
        }
        const reduce = jpeg ? 1 : downscale;
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
        formatOf(bytes, name) === "jpeg" &&
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
        tagged.setBlob("icc-profile-data", writeProfile(input.space, input.linear));
        const origin = from && metadataOf(vips, from);
        if (origin) carryExif(origin, tagged, caption, input.ppi);
        if (caption)
          tagged.setBlob("xmp-data", new TextEncoder().encode(writeXmp(caption, origin?.xmp)));
        if (input.alpha && (format === "png" || format === "tif")) {
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
        if (format === "jpg")
          tagged.jpegsaveTarget(target, {
            Q: input.quality,
            optimize_coding: width * height < TWO_PASS_PX,
            subsample_mode: input.chroma === "full" ? "off" : "on",
          });
        else if (format === "png")
          tagged.pngsaveTarget(target, {
            compression: 6,
            bitdepth: type === vips.BandFormat.ushort ? 16 : 8,
          });
        else if (format === "hdr") {
          // coded by hand: saving a float picture would first turn it into what a screen shows
          const coded = tagged.float2rad();
          coded.radsaveTarget(target, {});
          coded.delete();
        } else {
          const { compression } = input; // level 6 takes a quarter longer for 1.4 % of the size
          tagged.tiffsaveTarget(target, {
            compression,
            ...(compression === "none"
              ? {}
              : { level: 3, predictor: type === vips.BandFormat.float ? "float" : "horizontal" }),
            tile: false,
          });
          return addExif(parts(), origin?.exif);
        }
        return parts();
      } finally {
        tagged.delete();
        target.delete();
        source.delete();
      }
    },
  };
  return codec;
}

function uprightSize(image: Picture): { width: number; height: number } {
  const turned = image.getTypeof("orientation") !== 0 && image.getInt("orientation") >= 5;
  return turned
    ? { width: image.height, height: image.width }
    : { width: image.width, height: image.height };
}

/** Fields of the first directory that tell of the file and not of the shot. */
const OWN_FIELDS = new Set(
  ["Orientation", "XResolution", "YResolution", "ResolutionUnit"].map((f) => `exif-ifd0-${f}`),
);

interface Metadata {
  /** libvips' names of EXIF fields, with their texts */
  fields: [string, string][];
  exif: Uint8Array | undefined;
  xmp: string | undefined;
}

/**
 * What a file says beside its picture; what libvips cannot read is written anew from what was read
 * of it.
 */
function metadataOf(
  vips: Engine,
  { bytes, name, exif }: NonNullable<EncodeInput["metadataFrom"]>,
): Metadata {
  if (!["jpeg", "png", "tiff", "webp"].includes(formatOf(bytes, name) ?? "")) {
    const fields = exifFields(exif);
    const dot = vips.Image.black(1, 1).copy();
    for (const [f, text] of fields) dot.setString(f, text);
    const file = vips.Image.newFromBuffer(dot.jpegsaveBuffer());
    const block = file.getBlob("exif-data").slice();
    for (const p of [dot, file]) p.delete();
    return { fields, exif: block, xmp: undefined };
  }
  const from = vips.Image.newFromBuffer(bytes);
  try {
    const all = from.getFields();
    const fields: [string, string][] = [];
    for (let i = 0; i < all.size(); i++) {
      const f = all.get(i) ?? "";
      if (f.startsWith("exif-ifd") && !f.startsWith("exif-ifd1") && !OWN_FIELDS.has(f))
        fields.push([f, from.getString(f)]);
    }
    all.delete();
    // copies: the blobs go with their picture
    return {
      fields,
      exif: from.getTypeof("exif-data") ? from.getBlob("exif-data").slice() : undefined,
      xmp: from.getTypeof("xmp-data")
        ? new TextDecoder().decode(from.getBlob("xmp-data").slice())
        : undefined,
    };
  } finally {
    from.delete();
  }
}

function carryExif(origin: Metadata, to: Picture, caption: Caption | undefined, ppi: number): void {
  for (const [f, text] of origin.fields) to.setString(f, text);
  // the block's own resolution would win over the picture's
  if (origin.exif) to.setBlob("exif-data", withResolution(origin.exif, ppi));
  if (caption?.creator) to.setString("exif-ifd0-Artist", caption.creator);
  if (caption?.copyright) to.setString("exif-ifd0-Copyright", caption.copyright);
  to.setInt("orientation", 1);
}

const LINEAR_CURVES = [0, 1, 2].map(
  () =>
    (v: number): number =>
      v,
);

/**
 * Floats are linear unless their profile has a curve: then through it, finely tabled up to 1 and as
 * it is above.
 */
function linearFloats(src: Float32Array, colour: InputColour): Float32Array {
  const out = new Float32Array(src.length);
  const N = 65535;
  const curved = colour.curves.map((f) => Math.abs(f(0.5) - 0.5) > 1e-4);
  const table = colour.curves.map((f, c) =>
    curved[c] ? Float32Array.from({ length: N + 2 }, (_, i) => f(Math.min(1, i / N))) : undefined,
  );
  for (let i = 0; i < src.length; i++) {
    const v = src[i]!;
    const t = table[i % 3];
    if (!t || !(v > 0)) out[i] = v;
    else if (v > 1) out[i] = colour.curves[i % 3]!(v);
    else {
      const x = v * N;
      const k = Math.floor(x);
      out[i] = t[k]! + (t[k + 1]! - t[k]!) * (x - k);
    }
  }
  return out;
}

/** Tables of `n` entries for each channel. */
function tables(colour: InputColour, n: number): Float32Array {
  const out = new Float32Array(n * 3);
  colour.curves.forEach((f, c) => {
    if (c > 0 && f === colour.curves[0]) out.copyWithin(c * n, 0, n);
    else for (let i = 0; i < n; i++) out[c * n + i] = f(i / (n - 1));
  });
  return out;
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
