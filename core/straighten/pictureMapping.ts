import { IDENTITY, invert, isIdentity, multiply, project, type Matrix3 } from "../math/matrix3";

interface Size {
  width: number;
  height: number;
}
/**
 * What a straightened picture shows: its middle as large as the frame was, or all of the frame.
 */
export type Extent = "filled" | "whole";

/** A frame's px from the directions in which they look, its axis in its middle. */
export const intrinsics = (focalPx: number, { width, height }: Size): number[] => [
  focalPx,
  0,
  width / 2,
  0,
  focalPx,
  height / 2,
  0,
  0,
  1,
];

/** Scaling by `by` that takes the place `from` to `to`. */
const scaling = (by: number, from: readonly number[], to: readonly number[]): number[] => [
  by,
  0,
  to[0]! - by * from[0]!,
  0,
  by,
  to[1]! - by * from[1]!,
  0,
  0,
  1,
];

/** How much larger areas come out at a place. */
function enlargedArea(m: Matrix3, x: number, y: number): number {
  const w = m[6]! * x + m[7]! * y + m[8]!;
  const [a, b, c, d, e, f, g, h, i] = m as number[];
  const determinant =
    a! * (e! * i! - f! * h!) - b! * (d! * i! - f! * g!) + c! * (d! * h! - e! * g!);
  return Math.abs(determinant / w ** 3);
}

const cornersOf = (m: Matrix3, { width, height }: Size): [number, number][] => [
  project(m, 0, 0),
  project(m, width, 0),
  project(m, width, height),
  project(m, 0, height),
];

/**
 * The mapping of a picture as large as its frame that shows it as if the camera had been turned: from
 * the picture's px to the frame's, both at full size. The picture is moved and scaled so that it
 * holds the largest rectangle of its own shape in its middle and enlarges nothing there, or so that
 * it holds all of the frame.
 *
 * @param turn  camera to turned camera, row-major; by less than 60 degrees off the axis
 * @see Hartley and Zisserman, "Multiple View Geometry", 2004, section 8.4 (pictures of a rotated
 *   camera)
 */
export function pictureMapping(
  turn: Matrix3,
  focalPx: number,
  size: Size,
  extent: Extent,
): number[] {
  if (isIdentity(turn)) return [...IDENTITY];
  const lens = intrinsics(focalPx, size);
  const turned = multiply(lens, multiply(turn, invert(lens)));
  const middle: [number, number] = [size.width / 2, size.height / 2];
  const moved = project(turned, ...middle);
  const atFullSize = 1 / Math.sqrt(enlargedArea(turned, ...middle));
  const inFrameSize = multiply(scaling(atFullSize, moved, middle), turned);
  const corners = cornersOf(inFrameSize, size);
  const fitted = extent === "whole" ? around(corners, size) : within(corners, size);
  const by = Math.min(1, fitted.by);
  const toPicture = multiply(scaling(by, fitted.centre, middle), inFrameSize);
  const fromPicture = invert(toPicture);
  return fromPicture.map((v) => v / fromPicture[8]!);
}

/**
 * By how much a rectangle may be smaller than the largest for its middle to stay near the frame's:
 * many a largest one can be moved along.
 */
const LOOSENED = 0.02;

interface Fitted {
  centre: readonly number[];
  /** scale at which it fills the picture */
  by: number;
}

/** The box round a frame's corners. */
function around(corners: readonly (readonly number[])[], { width, height }: Size): Fitted {
  const xs = corners.map((c) => c[0]!);
  const ys = corners.map((c) => c[1]!);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const [y0, y1] = [Math.min(...ys), Math.max(...ys)];
  return {
    centre: [(x0 + x1) / 2, (y0 + y1) / 2],
    by: Math.min(width / (x1 - x0), height / (y1 - y0)),
  };
}

/**
 * The largest rectangle of the picture's shape within a frame's four sides. Its middle and size
 * satisfy a bound a side; the best lies where three of them are met (a linear programme of three
 * unknowns).
 */
function within(corners: readonly (readonly number[])[], { width, height }: Size): Fitted {
  // a x + b y + reach * size <= bound, with the side's normal pointing outwards
  const bounds = corners.map(([x0, y0], i) => {
    const [x1, y1] = corners[(i + 1) % 4]!;
    const length = Math.hypot(x1! - x0!, y1! - y0!);
    const a = (y1! - y0!) / length;
    const b = -(x1! - x0!) / length;
    return {
      a,
      b,
      reach: (Math.abs(a) * width + Math.abs(b) * height) / 2,
      bound: a * x0! + b * y0!,
    };
  });
  let best: { centre: readonly number[]; size: number } = {
    centre: [width / 2, height / 2],
    size: 0,
  };
  for (let without = 0; without < 4; without++) {
    const three = bounds.filter((_, i) => i !== without);
    const rows = three.flatMap(({ a, b, reach }) => [a, b, reach]);
    const inverse = invert(rows);
    if (!inverse.every(Number.isFinite)) continue;
    const values = [0, 1, 2].map((r) =>
      three.reduce((sum, { bound }, c) => sum + inverse[r * 3 + c]! * bound, 0),
    );
    const [x, y, size] = values as [number, number, number];
    const left = bounds[without]!;
    const holds = left.a * x + left.b * y + left.reach * size <= left.bound + 1e-6 * width;
    if (holds && size > best.size) best = { centre: [x, y], size };
  }
  if (best.size <= 0) return { centre: best.centre, by: 1 };
  const size = best.size * (1 - LOOSENED);
  const sides = bounds.map(({ a, b, reach, bound }): Side => [a, b, bound - reach * size]);
  return { centre: nearest(sides, [width / 2, height / 2], best.centre), by: 1 / size };
}

/** a x + b y <= c, with a and b of length 1. */
type Side = readonly [a: number, b: number, c: number];

/**
 * The point that keeps all sides and is nearest to a wanted one: itself, or on one side, or where
 * two meet.
 *
 * @param inside  a point that keeps all of them
 */
function nearest(
  sides: readonly Side[],
  [x, y]: readonly [number, number],
  inside: readonly number[],
): readonly number[] {
  const onSides = sides.map(([a, b, c]) => {
    const beyond = a * x + b * y - c;
    return [x - a * beyond, y - b * beyond] as const;
  });
  const meeting = sides.flatMap(([a, b, c], i) =>
    sides.slice(i + 1).flatMap(([d, e, f]) => {
      const determinant = a * e - b * d;
      return Math.abs(determinant) < 1e-9
        ? []
        : [[(c * e - b * f) / determinant, (a * f - c * d) / determinant] as const];
    }),
  );
  const keeps = ([u, v]: readonly [number, number]): boolean =>
    sides.every(([a, b, c]) => a * u + b * v <= c + 1e-6);
  const wanted = [x, y] as const;
  if (keeps(wanted)) return wanted;
  const awayOf = ([u, v]: readonly [number, number]): number => Math.hypot(u - x, v - y);
  return [...onSides, ...meeting].filter(keeps).sort((p, q) => awayOf(p) - awayOf(q))[0] ?? inside;
}
