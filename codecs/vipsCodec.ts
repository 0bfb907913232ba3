import type Vips from "wasm-vips";
import { RhizomeError } from "../core/error";
import type { FrameInfo } from "../core/frame/frame";
import type { Codec, Decoded, EncodeInput } from "./codec";
import { readExif } from "./exif";
import { colourOfSpace, readMatrixProfile, writeProfile, type InputColour } from "./icc";
import { withExif } from "./tiffExif";

type Engine = typeof Vips;
type Picture = Vips.Image;

/** Largest picture that is opened, in pixels: beyond it a header is taken for a trap. */
const LARGEST = 300e6;

function formatOf(b: Uint8Array): FrameInfo["format"] | undefined {
  if (b[0] === 0xff && b[1] === 0xd8) return "jpeg";
  if (b[0] === 0x89 && b[1] === 0x50 && b[2] === 0x4e && b[3] === 0x47) return "png";
  if ((b[0] === 0x49 && b[1] === 0x49 && b[2] === 42 && b[3] === 0) || (b[0] === 0x4d && b[1] === 0x4d && b[2] === 0 && b[3] === 42)) return "tiff";
  return undefined;
}

/** JPEG, PNG and TIFF through libvips; profiles of the matrix kind by our own tables, others by its colour engine. */
export function vipsCodec(vips: Engine): Codec {
  // one frame at a time a worker: the pool is the parallelism, and a cache of operations only holds memory
  vips.concurrency(1);
  vips.Cache.max(0);

  function open(bytes: Uint8Array, name: string, options = ""): Picture {
    const format = formatOf(bytes);
    if (!format) throw new RhizomeError("not-a-picture", `${name} is not a JPEG, PNG or TIFF file.`, "bring in JPEG, PNG or TIFF files");
    let image: Picture;
    try {
      image = vips.Image.newFromBuffer(bytes, options, { access: "sequential", fail_on: "error" });
    } catch (e) {
      throw damaged(name, e);
    }
    const reason = image.width * image.height > LARGEST ? "too-large" : !["uchar", "ushort"].includes(image.format) || image.bands > 5 ? "unsupported" : undefined;
    if (reason) {
      const what = `${name} is ${image.width} x ${image.height} px, ${image.bands} channels of type ${image.format}`;
      image.delete();
      throw new RhizomeError(reason, `${what}: ${reason === "too-large" ? "more than 300 megapixels" : "only 8 and 16 bit are read"}.`, "save it as an 8 or 16 bit RGB file of a smaller size");
    }
    return image;
  }

  /** To three bands, upright, in the file's own RGB; and what that RGB is. */
  function toRgb(image: Picture): { rgb: Picture; colour: InputColour; keep: Picture[] } {
    const keep: Picture[] = [];
    let im = image;
    const next = (p: Picture): Picture => { keep.push(im); return (im = p); };
    const profile = im.getTypeof("icc-profile-data") ? im.getBlob("icc-profile-data") : undefined;
    let colour = profile && readMatrixProfile(profile);
    if (profile && !colour && im.interpretation !== "b-w" && im.interpretation !== "grey16") {
      // a table profile goes through the colour engine, to 16 bit of the widest space that it has built in
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
    return { rgb: im, colour: colour ?? colourOfSpace("srgb"), keep };
  }

  const codec: Codec = {
    inspect(bytes, name) {
      const image = open(bytes, name);
      try {
        const turned = image.getTypeof("orientation") !== 0 && image.getInt("orientation") >= 5;
        const profile = image.getTypeof("icc-profile-data") ? readMatrixProfile(image.getBlob("icc-profile-data"))?.name ?? "embedded profile" : "sRGB assumed";
        return {
          name, format: formatOf(bytes)!, width: turned ? image.height : image.width, height: turned ? image.width : image.height,
          depth: image.format === "ushort" ? 16 : 8, profile, exif: readExif(bytes),
        };
      } finally { image.delete(); }
    },

    decode(bytes, name, shrink): Decoded {
      const jpeg = formatOf(bytes) === "jpeg";
      const image = open(bytes, name, jpeg && shrink > 1 ? `[shrink=${shrink}]` : "");
      const { rgb, colour, keep } = toRgb(image);
      try {
        const wide = rgb.format === "ushort";
        let { width, height } = rgb;
        const memory = rgb.writeToMemory();
        let samples = wide ? new Uint16Array(memory.buffer, memory.byteOffset, width * height * 3) : (memory as Uint8Array);
        if (!jpeg && shrink > 1) ({ samples, width, height } = boxReduce(samples, width, height, shrink));
        return { samples, width, height, lut: tables(colour, wide), matrix: [...colour.matrix], profile: colour.name };
      } catch (e) {
        throw damaged(name, e);
      } finally {
        for (const p of keep) p.delete();
        rgb.delete();
      }
    },

    thumbnail(bytes, name, longEdge) {
      const head = open(bytes, name), { width, height } = head;
      head.delete();
      let shrink = 1;
      while (formatOf(bytes) === "jpeg" && shrink < 8 && Math.max(width, height) / (shrink * 2) >= longEdge) shrink *= 2;
      const image = open(bytes, name, shrink > 1 ? `[shrink=${shrink}]` : "");
      try {
        // read to the end first: reducing alone would pass over a file that breaks off
        const whole = image.copyMemory(), small = whole.thumbnailImage(longEdge, { height: longEdge, output_profile: "srgb" });
        whole.delete();
        const flat = small.hasAlpha() ? small.flatten({ background: [128] }) : small;
        const jpeg = flat.jpegsaveBuffer({ Q: 80, keep: 0 });
        if (flat !== small) flat.delete();
        small.delete();
        return jpeg;
      } catch (e) {
        throw damaged(name, e);
      } finally { image.delete(); }
    },

    encode(input: EncodeInput) {
      const { samples, width, height, format } = input;
      const type = samples instanceof Float32Array ? vips.BandFormat.float : samples instanceof Uint16Array ? vips.BandFormat.ushort : vips.BandFormat.uchar;
      const image = vips.Image.newFromMemory(samples, width, height, 3, type);
      const tagged = image.copy({ interpretation: type === vips.BandFormat.float ? "scrgb" : type === vips.BandFormat.ushort ? "rgb16" : "srgb" });
      image.delete();
      try {
        tagged.setBlob("icc-profile-data", writeProfile(input.space));
        if (input.metadataFrom) carryExif(vips, input.metadataFrom, tagged);
        if (format === "jpg") return tagged.jpegsaveBuffer({ Q: input.quality, optimize_coding: true, subsample_mode: input.quality >= 90 ? "off" : "auto" });
        if (format === "png") return tagged.pngsaveBuffer({ compression: 6, bitdepth: type === vips.BandFormat.ushort ? 16 : 8 });
        if (format === "hdr") return tagged.radsaveBuffer({});
        const tiff = tagged.tiffsaveBuffer({ compression: "deflate", predictor: type === vips.BandFormat.float ? "float" : "horizontal", tile: false });
        return input.metadataFrom ? withExif(tiff, exifBlock(vips, input.metadataFrom)) : tiff;
      } finally { tagged.delete(); }
    },
  };
  return codec;
}

function damaged(name: string, e: unknown): RhizomeError {
  if (e instanceof RhizomeError) return e;
  // libvips throws a pair of kind and text
  const said: unknown = (e as { message?: unknown } | undefined)?.message, all = String(Array.isArray(said) ? said[1] : said ?? "");
  const text = all.split("\n").filter(Boolean).at(-1)?.slice(0, 160);
  return new RhizomeError("damaged", `${name} cannot be read to its end: ${text || "the data is broken"}.`, "copy it from the card again");
}

function exifBlock(vips: Engine, bytes: Uint8Array): Uint8Array | undefined {
  const from = vips.Image.newFromBuffer(bytes);
  // a copy: the blob goes with its picture
  const block = from.getTypeof("exif-data") ? from.getBlob("exif-data").slice() : undefined;
  from.delete();
  return block;
}

function carryExif(vips: Engine, bytes: Uint8Array, to: Picture): void {
  const from = vips.Image.newFromBuffer(bytes);
  const fields = from.getFields();
  for (let i = 0; i < fields.size(); i++) {
    const f = fields.get(i) ?? "";
    if (!f.startsWith("exif-ifd") || f.startsWith("exif-ifd1") || f === "exif-ifd0-Orientation") continue;
    to.setString(f, from.getString(f));
  }
  fields.delete();
  if (from.getTypeof("exif-data")) to.setBlob("exif-data", from.getBlob("exif-data"));
  to.setInt("orientation", 1);
  from.delete();
}

function tables(colour: InputColour, wide: boolean): Float32Array {
  const n = wide ? 65536 : 256, out = new Float32Array(n * 3);
  colour.curves.forEach((f, c) => {
    if (c > 0 && f === colour.curves[0]) out.copyWithin(c * n, 0, n);
    else for (let i = 0; i < n; i++) out[c * n + i] = f(i / (n - 1));
  });
  return out;
}

function boxReduce(src: Uint8Array | Uint16Array, w: number, h: number, s: number): { samples: Uint8Array | Uint16Array; width: number; height: number } {
  const W = Math.ceil(w / s), H = Math.ceil(h / s);
  const out = src instanceof Uint16Array ? new Uint16Array(W * H * 3) : new Uint8Array(W * H * 3);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) for (let c = 0; c < 3; c++) {
    let sum = 0, n = 0;
    for (let j = y * s; j < Math.min(h, y * s + s); j++) for (let i = x * s; i < Math.min(w, x * s + s); i++, n++) sum += src[(j * w + i) * 3 + c]!;
    out[(y * W + x) * 3 + c] = Math.round(sum / n);
  }
  return { samples: out, width: W, height: H };
}
