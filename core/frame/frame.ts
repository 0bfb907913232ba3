import * as v from "valibot";

/**
 * What the camera wrote down and what the file is. Times in s since 1970 without a zone, as cameras
 * keep them.
 */
export const ExifSchema = v.object({
  exposureTime: v.optional(v.number()),
  aperture: v.optional(v.number()),
  iso: v.optional(v.number()),
  focalLength: v.optional(v.number()),
  takenAt: v.optional(v.number()),
  camera: v.optional(v.string()),
  /** of the body */
  serial: v.optional(v.string()),
  lens: v.optional(v.string()),
  orientation: v.optional(v.number()),
  /** in mm on a 36 mm wide frame; in m */
  focalLength35: v.optional(v.number()),
  focusDistance: v.optional(v.number()),
  rating: v.optional(v.number()),
  /** the word that another program marked it with */
  label: v.optional(v.string()),
  /** what its photographer wrote of it, and whose it is */
  caption: v.optional(v.string()),
  creator: v.optional(v.string()),
  copyright: v.optional(v.string()),
});
export type Exif = v.InferOutput<typeof ExifSchema>;

/** What the file itself says of the lens, in the terms of `Preparation`. */
export const FileLensSchema = v.object({
  distortion: v.optional(v.number()),
  vignetting: v.optional(v.number()),
  fringeRed: v.optional(v.number()),
  fringeBlue: v.optional(v.number()),
});
export type FileLens = v.InferOutput<typeof FileLensSchema>;

export const FRAME_FORMATS = [
  "jpeg",
  "png",
  "tiff",
  "webp",
  "avif",
  "heic",
  "jxl",
  "hdr",
  "exr",
  "raw",
] as const;
export type FrameFormat = (typeof FRAME_FORMATS)[number];

export const FrameInfoSchema = v.object({
  name: v.string(),
  /** in which it was brought in, if in one */
  folder: v.optional(v.string()),
  format: v.picklist(FRAME_FORMATS),
  width: v.number(),
  height: v.number(),
  /** bits a sample; 32 are floats */
  depth: v.picklist([8, 16, 32]),
  profile: v.string(),
  exif: ExifSchema,
  /** of a file of several pictures the first is taken: how many there are */
  pages: v.optional(v.number()),
  /** a gain map for HDR displays goes with it, which is left aside */
  gainMap: v.optional(v.boolean()),
  lens: v.optional(FileLensSchema),
});
export type FrameInfo = v.InferOutput<typeof FrameInfoSchema>;

/**
 * Exposure in EV above f/1, 1 s, ISO 100: more light, higher number. The difference of two frames
 * is the factor between their linear samples in stops. undefined where the time is unknown.
 */
export function exposureEv(exif: Exif): number | undefined {
  if (!exif.exposureTime || exif.exposureTime <= 0) return undefined;
  const n = exif.aperture && exif.aperture > 0 ? exif.aperture : 1;
  return Math.log2(
    (exif.exposureTime / (n * n)) * ((exif.iso && exif.iso > 0 ? exif.iso : 100) / 100),
  );
}

/** EV100 as light meters give it (ISO 2720). */
export function ev100(exif: Exif): number | undefined {
  const e = exposureEv(exif);
  return e === undefined ? undefined : -e;
}

/**
 * The step that was set on the camera: shutter speeds are rounded (1/15 to 1/4 s is 2 EV), steps
 * are thirds or halves.
 */
export function roundEv(ev: number): number {
  const third = Math.round(ev * 3) / 3;
  const half = Math.round(ev * 2) / 2;
  return (Math.abs(ev - half) <= Math.abs(ev - third) + 1e-9 ? half : third) + 0;
}

/**
 * What a recipe may call a frame: its id, or the name of its file, which is all that the command
 * line knows.
 */
export const namesOf = ({
  id,
  info,
}: {
  id: string;
  info: { name: string };
}): readonly [string, string] => [id, info.name];
