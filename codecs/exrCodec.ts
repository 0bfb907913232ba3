import {
  EXRExporter,
  NO_COMPRESSION,
  ZIP_COMPRESSION,
} from "three/addons/exporters/EXRExporter.js";
import { EXRLoader } from "three/addons/loaders/EXRLoader.js";
import { DataTexture, DataUtils, FloatType, HalfFloatType, RGBAFormat } from "three";
import { SPACES, toWorking, workingFromPrimaries, type SpaceId } from "../core/colour/spaces";
import { RhizomeError } from "../core/error";
import { boxReduce } from "./boxReduce";
import type { Decoded, Decoder, EncodeInput } from "./codec";
import { exifDate } from "./exifFields";
import { checkSize, damaged } from "./limits";
import { makeFinite } from "./finiteSamples";
import { inOneStrip } from "./strips";
import { writeXmp } from "./xmp";
import { clamp } from "../core/math/clamp";

interface Header {
  width: number;
  height: number;
  half: boolean;
  chromaticities?: number[];
}

/**
 * Reads the attributes of a single-part scan-line or tiled file (OpenEXR file layout, version 2).
 */
function readHeader(b: Uint8Array, name: string): Header & { end: number } {
  const d = new DataView(b.buffer, b.byteOffset, b.byteLength);
  const out: Header = { width: 0, height: 0, half: true };
  try {
    if (d.getUint32(4, true) & 0x1800)
      throw new RhizomeError(
        "unsupported",
        `${name} is a deep or multi-part EXR file.`,
        "save it as one flat picture",
      );
    let at = 8;
    const text = (): string => {
      const from = at;
      while (d.getUint8(at)) at++;
      return String.fromCharCode(...b.subarray(from, at++));
    };
    for (let n = 0; n < 500; n++) {
      const attribute = text();
      if (!attribute) return { ...out, end: at };
      text();
      const size = d.getUint32(at, true);
      const p = at + 4;
      if (attribute === "dataWindow") {
        out.width = d.getInt32(p + 8, true) - d.getInt32(p, true) + 1;
        out.height = d.getInt32(p + 12, true) - d.getInt32(p + 4, true) + 1;
      }
      if (attribute === "chromaticities")
        out.chromaticities = Array.from({ length: 8 }, (_, i) => d.getFloat32(p + i * 4, true));
      if (attribute === "channels") {
        let q = p;
        while (d.getUint8(q)) {
          while (d.getUint8(q)) q++;
          if (d.getInt32(q + 1, true) === 2) out.half = false;
          q += 17;
        }
      }
      at = p + size;
    }
  } catch (e) {
    throw damaged(name, e);
  }
  throw damaged(name, "its header does not end");
}

/**
 * OpenEXR through three.js: half and float, none, RLE, ZIP, ZIPS and PIZ in; ZIP or none out, with
 * primaries.
 */
export function exrCodec(encodeThumbnail: (d: Decoded, longEdge: number) => Uint8Array): Decoder {
  const decoder: Decoder = {
    inspect(bytes, name) {
      const h = readHeader(bytes, name);
      checkSize(name, h.width, h.height);
      return {
        name,
        format: "exr",
        width: h.width,
        height: h.height,
        depth: h.half ? 16 : 32,
        profile: h.chromaticities ? "linear, own primaries" : "linear sRGB assumed",
        exif: {},
      };
    },
    decode(bytes, name, downscale): Decoded {
      const h = readHeader(bytes, name);
      checkSize(name, h.width, h.height);
      const loader = new EXRLoader();
      loader.type = FloatType;
      let r: { width: number; height: number; data: ArrayLike<number> };
      try {
        r = loader.parse(new Uint8Array(bytes).buffer) as never;
      } catch (e) {
        throw damaged(name, e);
      }
      const { width: w, height: ht } = r;
      const channels = r.data.length / (w * ht);
      const samples = new Float32Array(w * ht * 3);
      // three.js counts rows from the bottom
      for (let y = 0; y < ht; y++)
        for (let x = 0; x < w; x++)
          for (let c = 0; c < 3; c++) {
            samples[(y * w + x) * 3 + c] =
              r.data[((ht - 1 - y) * w + x) * channels + (channels >= 3 ? c : 0)]!;
          }
      makeFinite(samples);
      const p = h.chromaticities;
      const matrix: number[] = [
        ...(p
          ? workingFromPrimaries([p[0]!, p[1]!], [p[2]!, p[3]!], [p[4]!, p[5]!], [p[6]!, p[7]!])
          : toWorking("srgb")),
      ];
      const reduced =
        downscale > 1 ? boxReduce(samples, w, ht, downscale) : { samples, width: w, height: ht };
      return { ...reduced, lut: new Float32Array(0), matrix };
    },
    decodeStrips: (...args) => inOneStrip(decoder.decode)(...args),
    thumbnail: (bytes, name, longEdge) => encodeThumbnail(decoder.decode(bytes, name, 8), longEdge),
  };
  return decoder;
}

/** Linear RGB floats to an EXR file with the primaries of `space`, and the metadata beside it. */
export async function encodeExr(
  samples: Float32Array,
  width: number,
  height: number,
  space: SpaceId,
  half: boolean,
  compress: boolean,
  facts: Attribute[] = [],
): Promise<Uint8Array<ArrayBuffer>> {
  const n = width * height;
  const data = half ? new Uint16Array(n * 4) : new Float32Array(n * 4);
  const one = half ? DataUtils.toHalfFloat(1) : 1;
  const put = half
    ? (v: number): number => DataUtils.toHalfFloat(clamp(v, -65504, 65504))
    : (v: number): number => v;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * 3;
      const o = ((height - 1 - y) * width + x) * 4;
      data[o] = put(samples[i]!);
      data[o + 1] = put(samples[i + 1]!);
      data[o + 2] = put(samples[i + 2]!);
      data[o + 3] = one;
    }
  const type = half ? HalfFloatType : FloatType;
  const file = await new EXRExporter().parse(
    new DataTexture(data, width, height, RGBAFormat, type),
    { type, compression: compress ? ZIP_COMPRESSION : NO_COMPRESSION },
  );
  return withAttributes(
    file,
    [["chromaticities", "chromaticities", floats(...SPACES[space].primaries)], ...facts],
    compress ? 16 : 1,
  );
}

type Attribute = [name: string, type: string, value: Uint8Array];
const floats = (...v: number[]): Uint8Array => new Uint8Array(Float32Array.from(v).buffer);
const text = (t: string): Uint8Array => new TextEncoder().encode(t);

/** The shot and the merge in OpenEXR's standard attributes; the XMP packet as text beside them. */
export function exrFacts({
  metadataFrom: from,
  caption,
  ppi,
  keep,
}: Pick<EncodeInput, "metadataFrom" | "caption" | "ppi" | "keep">): Attribute[] {
  const e = (keep === "copyright" ? undefined : from?.exif) ?? {};
  const [make, ...model] = (e.camera ?? "").split(" ");
  const words = (name: string, t: string | undefined): Attribute[] =>
    t ? [[name, "string", text(t)]] : [];
  const value = (name: string, v: number | undefined): Attribute[] =>
    v === undefined ? [] : [[name, "float", floats(v)]];
  return [
    ...value("xDensity", ppi),
    ...value("expTime", e.exposureTime),
    ...value("aperture", e.aperture),
    ...value("isoSpeed", e.iso),
    ...value("nominalFocalLength", e.focalLength),
    ...words("capDate", e.takenAt === undefined ? undefined : exifDate(e.takenAt)),
    ...words("cameraMake", make),
    ...words("cameraModel", model.join(" ")),
    ...words("lensModel", e.lens),
    ...words("owner", caption && [caption.creator, caption.copyright].filter(Boolean).join(", ")),
    ...words("comments", caption && `${caption.kind} of ${caption.frames.join(", ")}`),
    ...words("xmp", caption && writeXmp(caption, undefined)),
  ];
}

/** Adds attributes to a scan-line file; the offsets of its blocks of `rows` rows move with them. */
function withAttributes(
  file: Uint8Array,
  attributes: Attribute[],
  rows: number,
): Uint8Array<ArrayBuffer> {
  const { end, height } = readHeader(file, "the new file");
  const parts = attributes.flatMap(([name, type, value]) => [
    text(`${name}\0${type}\0`),
    new Uint8Array(Uint32Array.of(value.length).buffer),
    value,
  ]);
  const length = parts.reduce((s, p) => s + p.length, 0);
  const out = new Uint8Array(file.length + length);
  const view = new DataView(out.buffer);
  let at = end - 1;
  out.set(file.subarray(0, at));
  out.set(file.subarray(at), at + length);
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  for (let i = 0, p = end + length; i < Math.ceil(height / rows); i++, p += 8)
    view.setBigUint64(p, view.getBigUint64(p, true) + BigInt(length), true);
  return out;
}
