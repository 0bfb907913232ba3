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
