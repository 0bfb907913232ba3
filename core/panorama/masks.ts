import * as v from "valibot";

const share = v.pipe(v.number(), v.minValue(-1), v.maxValue(2));

/** A part of a frame that the panorama does not take: a closed line in shares of the frame, so that it holds in every projection. */
export const MaskSchema = v.object({ id: v.string(), /** the frame's id, or its file's name */ frame: v.string(), on: v.boolean(), points: v.pipe(v.array(v.tuple([share, share])), v.minLength(3), v.maxLength(2000)) });
export type Mask = v.InferOutput<typeof MaskSchema>;
export type Outline = Mask["points"];

/** Whether a place lies within a closed line (even-odd rule). */
export function within(outline: Outline, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [x0, y0] = outline[i]!, [x1, y1] = outline[j]!;
    if (y0 > y !== y1 > y && x < x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)) inside = !inside;
  }
  return inside;
}
