import { boxInPicture, inPicture, sharpnessInPicture } from "../../core/straighten/inPicture";
import { IDENTITY, multiply, type Matrix3 } from "../../core/math/matrix3";
import type { Aligned } from "../align/step";

/** Where frames lie, and how the picture lies on their reference frame. */
export interface PlacedFrames extends Pick<Aligned, "straightening"> {
  frames: readonly Pick<Aligned["frames"][number], "fromReference" | "used">[];
}

/** The way from a picture's px to those of one of its frames, at full size. */
export function placeInPicture({ frames, straightening }: PlacedFrames, frame: number): Matrix3 {
  const fromReference = frames[frame]?.fromReference ?? IDENTITY;
  return straightening ? multiply(fromReference, straightening.fromPicture) : fromReference;
}

/**
 * All that was found of frames over their reference frame as it lies in the picture. Without
 * straightening it is what it was.
 *
 * @param size  of the reference frame, px
 */
export function straightenedPlaces(
  aligned: Aligned,
  size: { width: number; height: number },
): Aligned {
  const { straightening, frames, sharp, moved, displaced } = aligned;
  if (!straightening) return aligned;
  const { fromPicture } = straightening;
  return {
    ...aligned,
    frames: inPicture(frames, fromPicture),
    ...(sharp ? { sharp: sharpnessInPicture(sharp, size, fromPicture) } : {}),
    ...(moved ? { moved: moved.map((box) => boxInPicture(box, fromPicture)) } : {}),
    ...(displaced ? { displaced: displaced.map((box) => boxInPicture(box, fromPicture)) } : {}),
  };
}
