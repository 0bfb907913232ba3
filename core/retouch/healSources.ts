import type { Rectangle } from "../raster/largestRectangle";
import { findSources, sourceReach, type Place, type Source } from "./findSource";
import { LogScale, readLogWindow, type LogWindow, type ScenePlanes } from "./logWindow";
import { boundsOf, halfWidth, type PlacedShape } from "./repair";
import { depthInside } from "./repairMask";

interface Size {
  width: number;
  height: number;
}
type Centres = (readonly [number, number] | undefined)[];

/** Width of the rim by which places are compared, in half-widths; and at least, px. */
const RIM = 0.6;
const LEAST_RIM = 4;
/** Sources of a piece. */
const SOURCES = 8;
/** Length of the pieces of a stroke that have sources of their own, and how far each goes, radii. */
const PIECE_STEP = 1.5;
export const PIECE_REACH = 2.2;

/**
 * Mean squared difference of rims, in squared steps from px to px, up to which two places are alike:
 * texture differs by twice its own, an edge that lies elsewhere by as many px as it is away.
 */
const ALIKE = 8;
/** Squared steps that are none, in squared stops. */
const LEAST_STEP = 1e-5;

/** A part of a repair that takes its texture from sources of its own. */
export interface Piece {
  centre?: readonly [number, number];
  sources: readonly Source[];
}

/** px round a shape by which its surroundings are known. */
export const rimOf = (radius: number): number => Math.max(LEAST_RIM, Math.ceil(radius * RIM));

/** px round a shape that healing may read. */
export const healReach = (radius: number): number => sourceReach(radius) + rimOf(radius);

/** The one place whose surroundings are most like those of a shape, px from it. */
export function bestSource(
  planes: ScenePlanes,
  shape: PlacedShape,
  size: Size,
): Source | undefined {
  const target = boundsOf(shape, rimOf(halfWidth(shape)), size);
  const scale = new LogScale(planes.meanLight(target));
  const depth = depthInside(shape, target);
  return foundPieces(planes, shape, target, depth, scale, size, [undefined])[0]!.sources[0];
}

/** The pieces of a repair with the sources that were found for each. */
export function foundPieces(
  planes: ScenePlanes,
  shape: PlacedShape,
  target: Rectangle,
  depth: Float32Array,
  scale: LogScale,
  size: Size,
  centres: Centres = centresOf(shape),
): Piece[] {
  const radius = halfWidth(shape);
  const inside = (x: number, y: number): boolean => {
    const u = x - target.x;
    const v = y - target.y;
    if (u < 0 || v < 0 || u >= target.width || v >= target.height) return false;
    return depth[v * target.width + u]! > -1;
  };
  return centres.map((centre) => {
    const near = centre
      ? boundsOf({ type: "path", points: [centre], radius: 2 * radius }, rimOf(radius), size)
      : target;
    const region = widened(near, sourceReach(radius), size);
    const window = readLogWindow(planes, region, scale, (x, y) => !inside(x, y));
    const place = placeOf(target, depth, region, centre, radius);
    const found = place.hole.length ? findSources(window, place, SOURCES) : [];
    const alike = found.filter(({ cost }) => cost < ALIKE * stepsOf(window, place));
    return { ...(centre ? { centre } : {}), sources: alike };
  });
}

const widened = ({ x, y, width, height }: Rectangle, by: number, size: Size): Rectangle => {
  const x0 = Math.max(0, x - by);
  const y0 = Math.max(0, y - by);
  return {
    x: x0,
    y: y0,
    width: Math.min(size.width, x + width + by) - x0,
    height: Math.min(size.height, y + height + by) - y0,
  };
};

/** Middles of the pieces of a shape; undefined for one that is in one piece. */
function centresOf(shape: PlacedShape): Centres {
  if (shape.type === "outline" || shape.points.length === 1) return [undefined];
  const step = shape.radius * PIECE_STEP;
  const centres: (readonly [number, number])[] = [shape.points[0]!];
  let left = step;
  for (let i = 1; i < shape.points.length; i++) {
    const [x0, y0] = shape.points[i - 1]!;
    const [x1, y1] = shape.points[i]!;
    const length = Math.hypot(x1 - x0, y1 - y0);
    let at = left;
    for (; at <= length; at += step)
      centres.push([x0 + ((x1 - x0) * at) / length, y0 + ((y1 - y0) * at) / length]);
    left = at - length;
  }
  return centres.length === 1 ? [undefined] : centres;
}

/** What of a repair belongs to a piece, in px of a window. */
function placeOf(
  target: Rectangle,
  depth: Float32Array,
  region: Rectangle,
  centre: readonly [number, number] | undefined,
  radius: number,
): Place {
  const hole: number[] = [];
  const rim: number[] = [];
  const weights: number[] = [];
  const fade = rimOf(radius) / 2;
  for (let y = 0, i = 0; y < target.height; y++)
    for (let x = 0; x < target.width; x++, i++) {
      const X = target.x + x;
      const Y = target.y + y;
      if (centre && Math.hypot(X + 0.5 - centre[0], Y + 0.5 - centre[1]) > radius * PIECE_REACH)
        continue;
      if (depth[i]! > 0) hole.push(X - region.x, Y - region.y);
      else if (depth[i]! < -1) {
        rim.push(X - region.x, Y - region.y);
        weights.push(Math.exp(depth[i]! / fade));
      }
    }
  return {
    hole: Int32Array.from(hole),
    rim: Int32Array.from(rim),
    weights: Float32Array.from(weights),
    radius,
  };
}

/** Mean squared step from px to px in a rim. */
function stepsOf({ width, height, colour }: LogWindow, { rim, weights }: Place): number {
  let squares = 0;
  let total = 0;
  for (let i = 0; i < weights.length; i++) {
    const x = rim[2 * i]!;
    const y = rim[2 * i + 1]!;
    if (x + 1 >= width || y + 1 >= height) continue;
    const at = (y * width + x) * 3;
    total += weights[i]!;
    for (let c = 0; c < 3; c++)
      squares +=
        (weights[i]! / 6) *
        ((colour[at + 3 + c]! - colour[at + c]!) ** 2 +
          (colour[at + 3 * width + c]! - colour[at + c]!) ** 2);
  }
  return LEAST_STEP + (total > 0 ? squares / total : 0);
}
