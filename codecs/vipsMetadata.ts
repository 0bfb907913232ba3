import type Vips from "wasm-vips";
import type { EncodeInput, Caption } from "./codec";
import { inputFormatOf } from "./inputFormats";
import { exifFields } from "./exifFields";
import { withResolution } from "./tiffExif";

export type Engine = typeof Vips;
export type Picture = Vips.Image;

/** Size of a picture as it is seen, which a camera held on end notes in the file. */
export function uprightSize(image: Picture): { width: number; height: number } {
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
export function metadataOf(
  vips: Engine,
  { bytes, name, exif }: NonNullable<EncodeInput["metadataFrom"]>,
): Metadata {
  if (!["jpeg", "png", "tiff", "webp"].includes(inputFormatOf(bytes, name)?.id ?? "")) {
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

/** Fields that say whose a picture is. */
const WHOSE = new Set(["exif-ifd0-Artist", "exif-ifd0-Copyright"]);
/** libvips' directory of fields that say where a picture was taken. */
const PLACE = "exif-ifd3-";
/** The same in XMP, as attributes and as elements. */
const XMP_PLACE =
  /\s(?:exif:GPS\w+|Iptc4xmpCore:Location|photoshop:City|photoshop:State|photoshop:Country)="[^"]*"|<(exif:GPS\w+|Iptc4xmpCore:Location|photoshop:City|photoshop:State|photoshop:Country)[\s>][\s\S]*?<\/\1>/g;

/**
 * What of a frame's metadata goes with the file: all, all but the place, or only whose it is. The
 * block itself holds the place as well; without it the fields are written anew.
 */
export function keptMetadata(all: Metadata, keep: EncodeInput["keep"] = "all"): Metadata {
  if (keep === "all") return all;
  if (keep === "copyright")
    return {
      fields: all.fields.filter(([field]) => WHOSE.has(field)),
      exif: undefined,
      xmp: undefined,
    };
  return {
    fields: all.fields.filter(([field]) => !field.startsWith(PLACE)),
    exif: undefined,
    xmp: all.xmp?.replace(XMP_PLACE, ""),
  };
}

/** Copies the fields of a frame that say how it was taken, and the user's own over them. */
export function carryExif(
  origin: Metadata,
  to: Picture,
  caption: Caption | undefined,
  ppi: number,
): void {
  for (const [f, text] of origin.fields) to.setString(f, text);
  // the block's own resolution would win over the picture's
  if (origin.exif) to.setBlob("exif-data", withResolution(origin.exif, ppi));
  if (caption?.creator) to.setString("exif-ifd0-Artist", caption.creator);
  if (caption?.copyright) to.setString("exif-ifd0-Copyright", caption.copyright);
  to.setInt("orientation", 1);
}
