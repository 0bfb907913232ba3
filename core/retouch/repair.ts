import type { Rectangle } from "../raster/largestRectangle";

type Point = readonly [number, number];

/** Places are shares of the picture's width and height, radii shares of its long edge. */
export type RepairShape =
  | { type: "spot"; x: number; y: number; radius: number }
  | { type: "stroke"; points: readonly Point[]; radius: number }
  | { type: "outline"; points: readonly Point[] };

/**
 * What a repair does: takes texture from elsewhere and light from round it, takes both from
 * elsewhere, or makes the place up of patches of what lies round it.
 */
export type RepairKind = "heal" | "clone" | "fill";

/** A place of the picture that is put right. */
export interface Repair {
  kind: RepairKind;
  shape: RepairShape;
  /** from the repair to where it takes from, shares of width and height; found where not given */
  source?: { dx: number; dy: number } | undefined;
  /** share of its half-width over which the border of a clone fades */
  softness: number;
  on: boolean;
}

/** A shape in px of a picture. */
export type PlacedShape =
  | { type: "path"; points: readonly Point[]; radius: number }
  | { type: "outline"; points: readonly Point[] };

interface Size {
  width: number;
  height: number;
}

/** The least radius of a spot or stroke, px: less is not a place. */
const LEAST_RADIUS = 1;

/** Where a repair lies in a picture of a size. A spot is a path of one point. */
export function placeShape(shape: RepairShape, { width, height }: Size): PlacedShape {
  const at = ([x, y]: Point): Point => [x * width, y * height];
  if (shape.type === "outline") return { type: "outline", points: shape.points.map(at) };
  const points: readonly Point[] = shape.type === "spot" ? [[shape.x, shape.y]] : shape.points;
  const radius = Math.max(LEAST_RADIUS, shape.radius * Math.max(width, height));
  return { type: "path", points: points.map(at), radius };
}

/** Half the width of a shape, px: of an outline that of the circle of its area. */
export function halfWidth(shape: PlacedShape): number {
  if (shape.type === "path") return shape.radius;
  const twiceArea = shape.points.reduce((sum, [x, y], i) => {
    const [u, v] = shape.points[(i + 1) % shape.points.length]!;
    return sum + x * v - u * y;
  }, 0);
  return Math.max(LEAST_RADIUS, Math.sqrt(Math.abs(twiceArea) / 2 / Math.PI));
}

/** The whole px within which a shape and `margin` px round it lie, cut to the picture. */
export function boundsOf(shape: PlacedShape, margin: number, { width, height }: Size): Rectangle {
  const more = margin + (shape.type === "path" ? shape.radius : 0);
  const xs = shape.points.map(([x]) => x);
  const ys = shape.points.map(([, y]) => y);
  const x = Math.max(0, Math.floor(Math.min(...xs) - more));
  const y = Math.max(0, Math.floor(Math.min(...ys) - more));
  return {
    x,
    y,
    width: Math.max(0, Math.min(width, Math.ceil(Math.max(...xs) + more)) - x),
    height: Math.max(0, Math.min(height, Math.ceil(Math.max(...ys) + more)) - y),
  };
}

/** A repair's source in whole px of a picture; undefined where it is to be found. */
export const sourceIn = (
  { source }: Repair,
  { width, height }: Size,
): { dx: number; dy: number } | undefined =>
  source && { dx: Math.round(source.dx * width), dy: Math.round(source.dy * height) };
