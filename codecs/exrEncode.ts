import {
  EXRExporter,
  NO_COMPRESSION,
  ZIP_COMPRESSION,
} from "three/addons/exporters/EXRExporter.js";
import { DataTexture, DataUtils, FloatType, HalfFloatType, RGBAFormat } from "three";
import { SPACES, type SpaceId } from "../core/colour/spaces";
import { clamp } from "../core/math/clamp";
import type { EncodeInput } from "./codec";
import { exifDate } from "./exifFields";
import { readExrHeader } from "./exrHeader";
import { writeXmp } from "./xmp";

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
  const { end, height } = readExrHeader(file, "the new file");
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
