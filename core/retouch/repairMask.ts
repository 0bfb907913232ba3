import type { Rectangle } from "../raster/largestRectangle";
import type { PlacedShape } from "./repair";

/**
 * How far each pixel of a region lies inside a shape, px: negative outside. Distances are exact
 * near the border and at least as large as `most` beyond it.
 *
 * @returns region.width x region.height values, row by row
 */
export function depthInside(shape: PlacedShape, region: Rectangle): Float32Array {
  const out = new Float32Array(region.width * region.height);
  const segments = segmentsOf(shape);
  for (let y = 0, i = 0; y < region.height; y++)
    for (let x = 0; x < region.width; x++, i++) {
      const px = region.x + x + 0.5;
      const py = region.y + y + 0.5;
      let nearest = Infinity;
      for (const s of segments) nearest = Math.min(nearest, squaredDistance(px, py, s));
      const distance = Math.sqrt(nearest);
      if (shape.type === "path") out[i] = shape.radius - distance;
      else out[i] = isInside(px, py, segments) ? distance : -distance;
    }
  return out;
}

type Segment = readonly [x0: number, y0: number, x1: number, y1: number];

function segmentsOf({ type, points }: PlacedShape): Segment[] {
  const [first] = points;
  if (points.length === 1) return [[...first!, ...first!]];
  const closed = type === "outline" ? [...points, first!] : points;
  return closed.slice(1).map(([x, y], i) => [...closed[i]!, x, y] as const);
}

function squaredDistance(px: number, py: number, [x0, y0, x1, y1]: Segment): number {
  const dx = x1 - x0;
  const dy = y1 - y0;
  const length = dx * dx + dy * dy;
  const along = length > 0 ? ((px - x0) * dx + (py - y0) * dy) / length : 0;
  const t = along < 0 ? 0 : Math.min(1, along);
  return (px - x0 - t * dx) ** 2 + (py - y0 - t * dy) ** 2;
}

/** Whether a place is inside an outline, by the even-odd rule. */
function isInside(px: number, py: number, segments: readonly Segment[]): boolean {
  let inside = false;
  for (const [x0, y0, x1, y1] of segments)
    if (y0 > py !== y1 > py && px < x0 + ((py - y0) / (y1 - y0)) * (x1 - x0)) inside = !inside;
  return inside;
}
