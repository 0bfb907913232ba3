import type { Exif } from "../core/frame/frame";

const two = (n: number): string => String(n).padStart(2, "0");
const rational = (v: number): string =>
  v < 1 ? `1000/${Math.round(1000 / v)}` : `${Math.round(v * 1000)}/1000`;

/** The moment as EXIF writes it, "2026:09:14 09:12:04". */
export function exifDate(takenAt: number): string {
  const d = new Date(Math.floor(takenAt) * 1000);
  return `${d.getUTCFullYear()}:${two(d.getUTCMonth() + 1)}:${two(d.getUTCDate())} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())}`;
}

/**
 * What is known of a shot as libvips' EXIF fields, for files whose own block cannot be copied
 * (camera raws, EXR, AVIF).
 */
export function exifFields(e: Exif): [string, string][] {
  const [make, ...model] = (e.camera ?? "").split(" ");
  const fields: [string, string | undefined][] = [
    ["exif-ifd0-Make", make],
    ["exif-ifd0-Model", model.join(" ")],
    ["exif-ifd2-ExposureTime", e.exposureTime && rational(e.exposureTime)],
    ["exif-ifd2-FNumber", e.aperture && rational(e.aperture)],
    ["exif-ifd2-ISOSpeedRatings", e.iso && String(Math.round(e.iso))],
    ["exif-ifd2-FocalLength", e.focalLength && rational(e.focalLength)],
    ["exif-ifd2-FocalLengthIn35mmFilm", e.focalLength35 && String(Math.round(e.focalLength35))],
    ["exif-ifd2-LensModel", e.lens],
    ["exif-ifd2-DateTimeOriginal", e.takenAt === undefined ? undefined : exifDate(e.takenAt)],
    [
      "exif-ifd2-SubSecTimeOriginal",
      e.takenAt === undefined
        ? undefined
        : String(Math.round((e.takenAt % 1) * 1000) % 1000).padStart(3, "0"),
    ],
  ].map(([k, v]) => [k as string, v ? String(v) : undefined]);
  return fields.filter((f): f is [string, string] => f[1] !== undefined);
}
