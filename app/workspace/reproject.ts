// A panorama as it will be, drawn from the picture there is: where each part of the one lies in the other.
import { apply, multiply, type Matrix3 } from "../../core/raster/matrix3";
import { transpose } from "../../core/panorama/camera";
import { fromPlane, pixelOf, type Canvas } from "../../core/panorama/projection";
import type { Size } from "./viewport";

/** A canvas seen in a box: `scale` is box px a px of the canvas, whose corner lies at x, y. */
export interface Seen { canvas: Canvas; scale: number; x: number; y: number }
/** Triangles: places in the box, px, and in the picture, in shares of it. */
export interface Mesh { places: Float32Array; shares: Float32Array }

const MARGIN = 24;
/** A canvas as large as the box holds it. */
export function fitted(canvas: Canvas, box: Size): Seen {
  const scale = Math.max(1e-6, Math.min((box.width - 2 * MARGIN) / canvas.width, (box.height - 2 * MARGIN) / canvas.height));
  return { canvas, scale, x: (box.width - canvas.width * scale) / 2, y: (box.height - canvas.height * scale) / 2 };
}

/** The direction that is shown at a place of the box, also beyond the canvas's border. */
export function directionIn({ canvas: c, scale, x, y }: Seen, bx: number, by: number) {
  return fromPlane(c.projection, ((bx - x) / scale - c.centreX) / c.pxPerRadian, ((by - y) / scale - c.centreY) / c.pxPerRadian, c.distance);
}

/** Where a canvas's rectangle lies in a box that shows another of the same projection. */
export function outlineIn({ canvas: c, scale, x, y }: Seen, other: Canvas): { x: number; y: number; width: number; height: number } {
  const by = (scale * c.pxPerRadian) / other.pxPerRadian;
  return { x: x + c.centreX * scale - other.centreX * by, y: y + c.centreY * scale - other.centreY * by, width: other.width * by, height: other.height * by };
}

/** Cells across a box's longer side: finer than the eye sees that straight lines stand for bent ones. */
const CELLS = 72;

/**
 * The whole box covered with the picture there is, as far as it reaches.
 *
 * @param was  the picture's canvas; @param turned  from the world it shows to the one that is wanted
 */
export function meshOver(seen: Seen, box: Size, was: Canvas, turned: Matrix3): Mesh {
  const cell = Math.max(box.width, box.height) / CELLS, across = Math.ceil(box.width / cell), down = Math.ceil(box.height / cell), back = transpose(turned), corners: ([number, number] | undefined)[] = [];
  for (let j = 0; j <= down; j++) for (let i = 0; i <= across; i++) {
    const d = directionIn(seen, i * cell, j * cell), p = d && pixelOf(was, apply(back, d));
    corners.push(p && [p[0] / was.width, p[1] / was.height]);
  }
  const places = new Float32Array(across * down * 12), shares = new Float32Array(across * down * 12);
  let n = 0;
  for (let j = 0; j < down; j++) for (let i = 0; i < across; i++) {
    const at = j * (across + 1) + i, square = [at, at + 1, at + across + 1, at + across + 2].map((k) => corners[k]);
    if (square.some((p) => p === undefined)) continue;
    // over the ends of a full turn, on the side of its first corner
    const own = square.map((p) => [was.closed ? p![0] - Math.round(p![0] - square[0]![0]) : p![0], p![1]] as const), wide = own.some(([u]) => Math.abs(u - own[0]![0]) > 0.4);
    if (wide) continue;
    for (const k of [0, 1, 2, 1, 3, 2]) { places.set([(i + (k & 1)) * cell, (j + (k >> 1)) * cell], n); shares.set(own[k]!, n); n += 2; }
  }
  return { places: places.subarray(0, n), shares: shares.subarray(0, n) };
}

/** From the world that one turn made upright to that of another. */
export const betweenTurns = (was: Matrix3, wanted: Matrix3): number[] => multiply(wanted, transpose(was));
