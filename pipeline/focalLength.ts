import type { FrameInfo } from "../core/frame/frame";

/** The longer side of the format that focal lengths are compared on, mm. */
export const FULL_FRAME_MM = 36;

type Size = Pick<FrameInfo, "width" | "height">;
/** A focal length in px of a frame, by what it is on 35 mm film. */
export const pxOfFocal = (mm: number, { width, height }: Size): number =>
  (mm / FULL_FRAME_MM) * Math.max(width, height);
/** The same on 35 mm film, by its px. */
export const mmOfFocal = (px: number, { width, height }: Size): number =>
  (px / Math.max(width, height)) * FULL_FRAME_MM;

/** The focal length in px that a file tells. */
export function focalPxOf(info: FrameInfo): number | undefined {
  const { focalLength35: mm } = info.exif;
  return mm && mm > 4 ? pxOfFocal(mm, info) : undefined;
}
