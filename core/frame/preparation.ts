import * as v from "valibot";
import type { WhiteBalance } from "../colour/whiteBalance";
import { namesOf } from "./frame";
import { range } from "../math/range";

/**
 * Dust on the sensor: the same place of every frame as the camera took it, in shares of its width
 * and height; radius in widths.
 */
export const DustSpotSchema = v.object({
  x: range(0, 1),
  y: range(0, 1),
  radius: range(0.0005, 0.05),
});
export type DustSpot = v.InferOutput<typeof DustSpotSchema>;

/**
 * What is done to every frame of a stack before it is compared with the others; all in terms of the
 * frame, none of its size.
 */
export const preparationEntries = {
  /** k of ideal = r (1 + k r^2), r = 1 at half the diagonal: positive straightens a barrel */
  distortion: range(-0.3, 0.3),
  /** share of light that the corners lack */
  vignetting: range(0, 0.9),
  /** how much larger red and blue are drawn than green, in 1/10000 */
  fringeRed: range(-30, 30),
  fringeBlue: range(-30, 30),
  /** strength of noise reduction, 0 to 1 */
  noise: range(0, 1),
  dust: v.pipe(v.array(DustSpotSchema), v.maxLength(500)),
};
export type Preparation = v.InferOutput<v.ObjectSchema<typeof preparationEntries, undefined>> & {
  /** factors on its linear Rec. 2020 light, where its white is not that of the others */
  gains?: readonly number[];
};

/** A frame that is not treated like the others: what it has in place of what all have. */
export const FrameExceptionSchema = v.object({
  /** id or file name */
  frame: v.pipe(v.string(), v.minLength(1), v.maxLength(400)),
  ...v.partial(
    v.object({ temperature: range(1700, 25000), tint: range(-150, 150), ...preparationEntries }),
  ).entries,
});
export type FrameException = v.InferOutput<typeof FrameExceptionSchema>;
export type ExceptionKey = Exclude<keyof FrameException, "frame">;
/** Whether it is about this frame. */
export const isAbout = (e: FrameException, frame: Parameters<typeof namesOf>[0]): boolean =>
  namesOf(frame).includes(e.frame);
export type PrepareSettings = Preparation &
  WhiteBalance & { exceptions: readonly FrameException[] };

export const AS_TAKEN: Preparation = {
  distortion: 0,
  vignetting: 0,
  fringeRed: 0,
  fringeBlue: 0,
  noise: 0,
  dust: [],
};

/**
 * The part of a step's settings that frames have to be read anew for; undefined where they are
 * taken as they are.
 */
export function preparationOf({
  distortion,
  vignetting,
  fringeRed,
  fringeBlue,
  noise,
  dust,
  gains,
}: Preparation): Preparation | undefined {
  const p = {
    distortion,
    vignetting,
    fringeRed,
    fringeBlue,
    noise,
    dust,
    ...(gains ? { gains } : {}),
  };
  return hasLens(p) || noise > 0 || dust.length || gains ? p : undefined;
}
/** Whether a preparation corrects anything of the lens. */
export const hasLens = ({ distortion, vignetting, fringeRed, fringeBlue }: Preparation): boolean =>
  distortion !== 0 || vignetting !== 0 || fringeRed !== 0 || fringeBlue !== 0;
