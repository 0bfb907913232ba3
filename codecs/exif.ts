import ExifReader from "exifreader";
import type { Exif } from "../core/frame/frame";

type Tag = { value?: unknown; description?: string } | undefined;

const rational = (t: Tag): number | undefined => {
  const v = t?.value;
  let n: number | undefined;
  if (Array.isArray(v) && typeof v[0] === "number" && typeof v[1] === "number") n = v[0] / v[1];
  else if (Array.isArray(v) && typeof v[0] === "number") n = v[0];
  else if (typeof v === "number") n = v;
  else n = undefined;
  return n !== undefined && Number.isFinite(n) && n > 0 ? n : undefined;
};
const text = (t: Tag): string | undefined => {
  const v = t?.value;
  let s: string;
  if (Array.isArray(v)) s = String(v[0] ?? "");
  else if (typeof v === "string") s = v;
  else s = "";
  return s.replace(/\0/g, "").trim().slice(0, 200) || undefined;
};

/** Stars, from EXIF or XMP; what else programs write there (-1 is "rejected") is none. */
const rating = (t: Tag): number | undefined => {
  const v = Number(Array.isArray(t?.value) ? t.value[0] : t?.value);
  return Number.isInteger(v) && v >= 1 && v <= 5 ? v : undefined;
};

const LONGEST_CAPTION = 2000;

/** A property of XMP, which may be a list of which the first counts. */
function property(t: Tag): string | undefined {
  const said = t?.description ?? "";
  return said.replace(/\0/g, "").trim().slice(0, LONGEST_CAPTION) || undefined;
}

/** What people say of a picture, in its file or beside it. */
export type Words = Pick<Exif, "rating" | "label" | "caption" | "creator" | "copyright">;

/** What people say of a picture; what a camera writes into every file is no caption. */
export const wordsOf = (tags: Record<string, Tag>): Words =>
  defined({
    rating: rating(tags["Rating"]),
    label: text(tags["Label"]),
    caption: property(tags["description"]),
    creator: property(tags["creator"]) ?? text(tags["Artist"]),
    copyright: property(tags["rights"]) ?? text(tags["Copyright"]),
  });

/** Only what is there. */
const defined = <T extends object>(all: T): T =>
  Object.fromEntries(Object.entries(all).filter(([, value]) => value !== undefined)) as T;

/** Reads what the camera wrote; missing or broken tags are left out, never guessed. */
export function readExif(bytes: Uint8Array): Exif {
  let tags: Record<string, Tag>;
  try {
    tags = ExifReader.load(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
      { expanded: false },
    ) as unknown as Record<string, Tag>;
  } catch {
    return {};
  }
  const apex = rational(tags["ShutterSpeedValue"]);
  const exif: Exif = {
    exposureTime: rational(tags["ExposureTime"]) ?? (apex ? 2 ** -apex : undefined),
    aperture: rational(tags["FNumber"]),
    iso: rational(tags["ISOSpeedRatings"]),
    focalLength: rational(tags["FocalLength"]),
    takenAt: time(
      text(tags["DateTimeOriginal"]) ?? text(tags["DateTime"]),
      text(tags["SubSecTimeOriginal"]),
    ),
    camera: [text(tags["Make"]), text(tags["Model"])].filter(Boolean).join(" ") || undefined,
    serial:
      text(tags["BodySerialNumber"]) ??
      text(tags["CameraSerialNumber"]) ??
      text(tags["SerialNumber"]),
    focalLength35: rational(tags["FocalLengthIn35mmFilm"]),
    focusDistance: rational(tags["SubjectDistance"]),
    ...wordsOf(tags),
    lens: text(tags["LensModel"]),
    orientation: rational(tags["Orientation"]),
  };
  return defined(exif);
}

function time(stamp: string | undefined, sub: string | undefined): number | undefined {
  const m = /^(\d{4}):(\d\d):(\d\d) (\d\d):(\d\d):(\d\d)/.exec(stamp ?? "");
  if (!m) return undefined;
  const [y, mo, d, h, mi, s] = m.slice(1).map(Number) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const t = Date.UTC(y, mo - 1, d, h, mi, s) / 1000;
  return Number.isFinite(t) ? t + (sub && /^\d+$/.test(sub) ? Number(`0.${sub}`) : 0) : undefined;
}
