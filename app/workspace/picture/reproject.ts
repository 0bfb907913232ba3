// A panorama as it will be, drawn from the picture there is: where each part of the one lies in the
// other.
import { apply, multiply, type Matrix3, transpose } from "../../../core/math/matrix3";
import { fromPlane, pixelOf, type Canvas } from "../../../core/panorama/canvas/projection";
import type { Size } from "./viewport";

/** A canvas seen in a box: `scale` is box px a px of the canvas, whose corner lies at x, y. */
export interface Seen {
  canvas: Canvas;
  scale: number;
  x: number;
  y: number;
}
/** Triangles: places in the box, px, and in the picture, in shares of it. */
export interface Mesh {
  places: Float32Array;
  shares: Float32Array;
}

const MARGIN = 24;
/** A canvas as large as the box holds it. */
export function fitted(canvas: Canvas, box: Size): Seen {
  const scale = Math.max(
    1e-6,
    Math.min((box.width - 2 * MARGIN) / canvas.width, (box.height - 2 * MARGIN) / canvas.height),
  );
  return {
    canvas,
    scale,
    x: (box.width - canvas.width * scale) / 2,
    y: (box.height - canvas.height * scale) / 2,
  };
}

/** The direction that is shown at a place of the box, also beyond the canvas's border. */
export function directionIn({ canvas: c, scale, x, y }: Seen, bx: number, by: number) {
  return fromPlane(
    c.projection,
    ((bx - x) / scale - c.centreX) / c.pxPerRadian,
    ((by - y) / scale - c.centreY) / c.pxPerRadian,
    c.distance,
  );
}

/** Where a canvas's rectangle lies in a box that shows another of the same projection. */
export function outlineIn(
  { canvas: c, scale, x, y }: Seen,
  other: Canvas,
): { x: number; y: number; width: number; height: number } {
  const by = (scale * c.pxPerRadian) / other.pxPerRadian;
  return {
    x: x + c.centreX * scale - other.centreX * by,
    y: y + c.centreY * scale - other.centreY * by,
    width: other.width * by,
    height: other.height * by,
  };
}

/**
 * Cells across a box's longer side: finer than the eye sees that straight lines stand for bent
 * ones. About a pole, where they do not, a cell is cut in four so many times.
 */
const CELLS = 72;
const FINER = 3;

/**
 * The whole box covered with the picture there is, as far as it reaches.
 *
 * @param was  the picture's canvas; @param turned  from the world it shows to the one that is
 *   wanted
 */
export function meshOver(seen: Seen, box: Size, was: Canvas, turned: Matrix3): Mesh {
  const back = transpose(turned);
  const places: number[] = [];
  const shares: number[] = [];
  const { canvas, scale } = seen;
  const shareAt = (x: number, y: number): [number, number] | undefined => {
    const d = directionIn(seen, x, y);
    const p = d && pixelOf(was, apply(back, d));
    return p && [p[0] / was.width, p[1] / was.height];
  };
  const draw = (
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    square: readonly ([number, number] | undefined)[],
    finer: number,
  ): void => {
    if (square.some((p) => p === undefined)) return;
    // over the ends of a full turn, on the side of its first corner
    const own = square.map(
      (p) => [was.closed ? p![0] - Math.round(p![0] - square[0]![0]) : p![0], p![1]] as const,
    );
    if (own.some(([u]) => Math.abs(u - own[0]![0]) > 0.2)) {
      if (!finer) return;
      const mx = (x0 + x1) / 2;
      const my = (y0 + y1) / 2;
      const [a, b, c, d] = square;
      const [up, left, middle, right, low] = [
        shareAt(mx, y0),
        shareAt(x0, my),
        shareAt(mx, my),
        shareAt(x1, my),
        shareAt(mx, y1),
      ];
      draw(x0, y0, mx, my, [a, up, left, middle], finer - 1);
      draw(mx, y0, x1, my, [up, b, middle, right], finer - 1);
      draw(x0, my, mx, y1, [left, middle, c, low], finer - 1);
      draw(mx, my, x1, y1, [middle, right, low, d], finer - 1);
      return;
    }
    for (const k of [0, 1, 2, 1, 3, 2]) {
      places.push(k & 1 ? x1 : x0, k >> 1 ? y1 : y0);
      shares.push(...own[k]!);
    }
  };
  // cells end where the canvas does, beyond which some projections show nothing
  const lines = (length: number, from: number, to: number): number[] => {
    const cell = Math.max(box.width, box.height) / CELLS;
    return [
      ...Array.from({ length: Math.ceil(length / cell) + 1 }, (_, i) => i * cell),
      from + 0.3,
      to - 0.3,
    ].sort((a, b) => a - b);
  };
  const xs = lines(box.width, seen.x, seen.x + canvas.width * scale);
  const ys = lines(box.height, seen.y, seen.y + canvas.height * scale);
  const corners = ys.map((y) => xs.map((x) => shareAt(x, y)));
  for (let j = 0; j + 1 < ys.length; j++)
    for (let i = 0; i + 1 < xs.length; i++)
      draw(
        xs[i]!,
        ys[j]!,
        xs[i + 1]!,
        ys[j + 1]!,
        [corners[j]![i], corners[j]![i + 1], corners[j + 1]![i], corners[j + 1]![i + 1]],
        FINER,
      );
  return { places: Float32Array.from(places), shares: Float32Array.from(shares) };
}

/** From the world that one turn made upright to that of another. */
export const betweenTurns = (was: Matrix3, wanted: Matrix3): number[] =>
  multiply(wanted, transpose(was));
