import { invert, project, type Matrix3 } from "../math/matrix3";

export interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/**
 * The upright box of the reference that a frame of the same size covers wholly, for motions of a
 * few degrees; px.
 */
export function coveredRectangle(fromReference: Matrix3, w: number, h: number): Box {
  const toReference = invert(fromReference);
  const box: Box = { x0: 0, y0: 0, x1: w, y1: h };
  for (let i = 0; i <= 8; i++) {
    const t = i / 8;
    box.x0 = Math.max(box.x0, project(toReference, 0, t * h)[0]);
    box.x1 = Math.min(box.x1, project(toReference, w, t * h)[0]);
    box.y0 = Math.max(box.y0, project(toReference, t * w, 0)[1]);
    box.y1 = Math.min(box.y1, project(toReference, t * w, h)[1]);
  }
  return box;
}

/** Whether a place of a picture lies on a frame of this size. @param toFrame  px to its px */
export function liesOn(
  toFrame: Matrix3,
  x: number,
  y: number,
  { width, height }: { width: number; height: number },
): boolean {
  const [u, v] = project(toFrame, x, y);
  return u >= 0 && v >= 0 && u <= width && v <= height;
}

/** A frame's outline in the picture: its corners clockwise, px. */
export type Outline = readonly (readonly [number, number])[];

/** The outline of a frame of w x h px in a picture. @param toFrame  the picture's px to the frame's */
export function outlineOf(toFrame: Matrix3, w: number, h: number): Outline {
  const toPicture = invert(toFrame);
  return [
    project(toPicture, 0, 0),
    project(toPicture, w, 0),
    project(toPicture, w, h),
    project(toPicture, 0, h),
  ];
}

/** What a frame covers of a picture whose rows go from y0 to y1, px. */
export interface CoveredPart {
  outline: Outline;
  y0: number;
  y1: number;
}

/** From where to where a line across the picture at a height of `y` lies in an outline, px. */
export function spanAt(outline: Outline, y: number): [number, number] {
  let from = Infinity;
  let to = -Infinity;
  outline.forEach(([x0, y0], i) => {
    const [x1, y1] = outline[(i + 1) % outline.length]!;
    if (Math.min(y0, y1) > y || Math.max(y0, y1) < y) return;
    const xs = y0 === y1 ? [x0, x1] : [x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)];
    from = Math.min(from, ...xs);
    to = Math.max(to, ...xs);
  });
  return [from, to];
}

/** What all the given frames cover. */
export const commonRectangle = (all: readonly Matrix3[], w: number, h: number): Box =>
  all
    .map((m) => coveredRectangle(m, w, h))
    .reduce(
      (a, b) => ({
        x0: Math.max(a.x0, b.x0),
        y0: Math.max(a.y0, b.y0),
        x1: Math.min(a.x1, b.x1),
        y1: Math.min(a.y1, b.y1),
      }),
      { x0: 0, y0: 0, x1: w, y1: h },
    );
