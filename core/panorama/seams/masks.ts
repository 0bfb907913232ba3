import * as v from "valibot";
import { range } from "../../math/range";
import { clamp } from "../../math/clamp";

const share = range(-1, 2);

/**
 * A part of a frame that the panorama does not take, in shares of the frame, so that it holds in
 * every projection.
 */
export const MaskSchema = v.pipe(
  v.object({
    id: v.string(),
    /** the frame's id, or its file's name */
    frame: v.string(),
    on: v.boolean(),
    /** a closed line round it, or the middle of a brush stroke */
    shape: v.optional(v.picklist(["outline", "brush"]), "outline"),
    points: v.pipe(v.array(v.tuple([share, share])), v.minLength(1), v.maxLength(2000)),
    /** of the brush, in shares of the frame's width */
    radius: v.optional(range(0, 1), 0),
  }),
  v.check(
    (m) => m.shape === "brush" || m.points.length > 2,
    "a line round a part needs three points",
  ),
);
export type Mask = v.InferOutput<typeof MaskSchema>;
/** Where a mask lies, whichever frame's it is. */
export type Part = Pick<Mask, "shape" | "points" | "radius">;

/** Whether a place lies within a closed line (even-odd rule). */
function within(outline: Part["points"], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [x0, y0] = outline[i]!;
    const [x1, y1] = outline[j]!;
    if (y0 > y !== y1 > y && x < x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)) inside = !inside;
  }
  return inside;
}

/**
 * Whether a place lies so near to a line.
 *
 * @param aspect  of the frame, height over width: places are in shares of either
 */
function beside(
  stroke: Part["points"],
  radius: number,
  aspect: number,
  x: number,
  y: number,
): boolean {
  for (let i = Math.min(1, stroke.length - 1); i < stroke.length; i++) {
    const [x0, y0] = stroke[Math.max(0, i - 1)]!;
    const [x1, y1] = stroke[i]!;
    const ex = x1 - x0;
    const ey = (y1 - y0) * aspect;
    const px = x - x0;
    const py = (y - y0) * aspect;
    const t = clamp((px * ex + py * ey) / Math.max(1e-12, ex * ex + ey * ey), 0, 1);
    if ((px - t * ex) ** 2 + (py - t * ey) ** 2 <= radius * radius) return true;
  }
  return false;
}

/** Tells of a place in a frame, px, whether any of these parts of it hides it. */
export function hiding(
  parts: readonly Part[],
  { width, height }: { width: number; height: number },
): (x: number, y: number) => boolean {
  const aspect = height / width;
  const boxes = parts.map(({ points, radius }) => ({
    x0: Math.min(...points.map((p) => p[0])) - radius,
    x1: Math.max(...points.map((p) => p[0])) + radius,
    y0: Math.min(...points.map((p) => p[1])) - radius / aspect,
    y1: Math.max(...points.map((p) => p[1])) + radius / aspect,
  }));
  return (px, py) => {
    const x = px / width;
    const y = py / height;
    return parts.some(({ shape, points, radius }, i) => {
      const b = boxes[i]!;
      return (
        x >= b.x0 &&
        x <= b.x1 &&
        y >= b.y0 &&
        y <= b.y1 &&
        (shape === "outline" ? within(points, x, y) : beside(points, radius, aspect, x, y))
      );
    });
  };
}
