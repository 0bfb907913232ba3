import type { FrameInfo } from "../core/frame/frame";

/** The focal length in px that a file tells. */
export function focalPxOf({ width, height, exif }: FrameInfo): number | undefined {
  const long = Math.max(width, height);
  return exif.focalLength35 && exif.focalLength35 > 4
    ? (exif.focalLength35 / 36) * long
    : undefined;
}
