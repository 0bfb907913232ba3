import { apply } from "../../math/matrix3";
import { rayOf, rotated, type Camera } from "../camera";
import { dot, cross, unit, type Vector } from "../../math/vector";
import { lineSegments, type Segment } from "../../features/lineSegments";
import type { SmallFrame } from "../seams/smallFrame";
import { clamp } from "../../math/clamp";

const RAD = Math.PI / 180;
/**
 * Degrees by which the world may be tilted against what `level` made of it, and the steps in which
 * tilts are tried.
 */
const MAX_TILT_DEGREES = 6;
const TILT_STEP_DEGREES = 0.25;
/**
 * Edges may lie so high above the horizon or below it, degrees: nearer to the poles a level one
 * passes for vertical.
 */
const MAX_EDGE_HEIGHT_DEGREES = 50;
/**
 * Degrees off the vertical within which an edge may be one, and by which an edge that is vertical
 * is measured wrong.
 */
const VERTICAL_WITHIN = 12;
const EDGE_SIGMA = 0.3;
/**
 * Degrees off the horizon within which long edges are asked whether they are level, and of frames'
 * widths how long they are.
 */
const HORIZON_WITHIN = 8;
const MIN_HORIZON_SHARE = 0.3;
/**
 * Degrees by which a level line near the horizon is measured wrong, and more for each degree that
 * it lies off it: a line that recedes runs obliquely there.
 */
const LEVEL_SIGMA = 0.15;
const RECEDING_WEIGHT = 0.5;
/**
 * Shares of edges taken to be vertical, and of long ones near the horizon to be level, before they
 * are asked.
 */
const VERTICAL_SHARE = 0.2;
const LEVEL_SHARE = 0.4;
/** Edges are no independent witnesses: one thing has several, and is seen in several frames. */
const EDGE_WEIGHT = 0.15;
const LEVEL_WEIGHT = 0.5;
/**
 * Degrees by which a hand rolls a camera from frame to frame at least, and by which somebody holds
 * it askew all along.
 */
const ROLL_SIGMA = 0.25;
const HABIT_SIGMA = 0.5;

/**
 * Log likelihood that verticals have to gain before the world is tilted further for them than they
 * might be measured wrong, degrees.
 */
const CLEAR_GAIN = 4;
const MEASURING_DEGREES = 0.3;

/**
 * What tells how the world stands: how the camera was held, edges that are vertical, or a long
 * level line.
 */
export type LevelledBy = "camera" | "verticals" | "horizon";
/**
 * What set a panorama upright most, and how far it may be off, as one standard deviation in
 * degrees.
 */
export interface Levelled {
  by: LevelledBy;
  degrees: number;
}

/** Straight edges of a frame, px at full size. */
export function straightEdges({ width: w, height: h, rgb, scale }: SmallFrame): Segment[] {
  const grey = new Float32Array(w * h).map((_, i) =>
    Math.sqrt(Math.max(0, (rgb[i * 3]! + 2 * rgb[i * 3 + 1]! + rgb[i * 3 + 2]!) / 4)),
  );
  return lineSegments(w, h, grey, new Uint8Array(w * h).fill(1)).map((s) => ({
    x0: s.x0 * scale,
    y0: s.y0 * scale,
    x1: s.x1 * scale,
    y1: s.y1 * scale,
  }));
}

/**
 * A direction that is square to the vertical if the witness is right: degrees by which it errs
 * then, the share of such witnesses, and what it counts.
 */
interface Witness {
  across: Vector;
  sigma: number;
  share: number;
  weight: number;
  within: number;
}

/**
 * Turns cameras that are about level by all that tells how the world stands, each by how well it is
 * known: how the cameras were rolled, edges that may be vertical (walls, posts, trunks), and long
 * edges along the horizon that may be level (a shore, the sea). An edge is a witness that may be
 * wrong: it counts by a mixture of what a true one would say and of anything, so that oblique edges
 * in any number hardly outweigh what the cameras say, and walls do.
 *
 * @param edges  of each frame, px
 * @see Coughlan and Yuille, "Manhattan world", ICCV 1999 (the vertical from edges alone, with a
 *   prior of how cameras are held)
 */
export function findLevel(
  cameras: readonly (Camera | undefined)[],
  edges: readonly (readonly Segment[])[],
): { cameras: (Camera | undefined)[]; levelled?: Levelled } {
  const placed = cameras.filter((c): c is Camera => c !== undefined);
  if (!placed.length) return { cameras: [...cameras] };
  const roll = rollPrior(placed);
  const verticals = cameras.flatMap((c, i) =>
    c ? (edges[i] ?? []).flatMap((s) => verticalWitness(c, s) ?? []) : [],
  );
  const levels = cameras.flatMap((c, i) =>
    c ? (edges[i] ?? []).flatMap((s) => levelWitness(c, s) ?? []) : [],
  );
  const parts: Record<LevelledBy, (a: number, b: number) => number> = {
    camera: roll,
    verticals: (a, b) => said(verticals, a, b),
    horizon: (a, b) => said(levels, a, b),
  };
  const withoutVerticals = (a: number, b: number): number => roll(a, b) + said(levels, a, b);
  const withVerticals = (a: number, b: number): number =>
    withoutVerticals(a, b) + said(verticals, a, b);
  const plain = highest(withoutVerticals);
  const upright = highest(withVerticals);
  // among many tilts some fits oblique edges by chance: verticals have to be clearly better than no
  // tilt for their sake
  const heard =
    upright.value - withVerticals(plain.a, plain.b) > CLEAR_GAIN ||
    Math.hypot(upright.a - plain.a, upright.b - plain.b) < MEASURING_DEGREES * RAD;
  const all = heard ? withVerticals : withoutVerticals;
  const { a, b } = heard ? upright : plain;
  if (!heard) parts.verticals = () => 0;
  const down = unit([a, 1, b]);
  const ahead = unit([0, 0, 1].map((v, i) => v - down[2] * down[i]!));
  const toWorld = [...cross(down, ahead), ...down, ...ahead];
  const by = (Object.keys(parts) as LevelledBy[]).sort(
    (p, q) => curvature(parts[q], a, b) - curvature(parts[p], a, b),
  )[0]!;
  const known = curvature(all, a, b);
  return {
    cameras: cameras.map((c) => c && rotated(c, toWorld)),
    levelled: {
      by,
      degrees:
        known > 0 ? Math.min(MAX_TILT_DEGREES, 1 / Math.sqrt(known) / RAD) : MAX_TILT_DEGREES,
    },
  };
}

/**
 * The tilt, as the vertical's parts along x and z, that has the highest sum of log likelihoods:
 * over a grid, then ever finer round the best.
 */
function highest(all: (a: number, b: number) => number): { a: number; b: number; value: number } {
  let best = { a: 0, b: 0, value: all(0, 0) };
  const consider = (a: number, b: number): void => {
    const value = all(a, b);
    if (value > best.value) best = { a, b, value };
  };
  for (let i = -MAX_TILT_DEGREES; i <= MAX_TILT_DEGREES; i += TILT_STEP_DEGREES)
    for (let j = -MAX_TILT_DEGREES; j <= MAX_TILT_DEGREES; j += TILT_STEP_DEGREES)
      consider(i * RAD, j * RAD);
  for (let step = (TILT_STEP_DEGREES / 2) * RAD; step > 1e-3 * RAD; step /= 2) {
    const { a, b } = best;
    for (const i of [-1, 0, 1]) for (const j of [-1, 0, 1]) consider(a + i * step, b + j * step);
  }
  return best;
}

/**
 * How sharply a log likelihood falls off round a tilt, along the way in which the picture would
 * roll: 1 over the variance, in radians.
 */
function curvature(part: (a: number, b: number) => number, a: number, b: number): number {
  const step = 0.2 * RAD;
  return Math.max(0, (2 * part(a, b) - part(a + step, b) - part(a - step, b)) / step ** 2);
}

const offBy = ([x, y, z]: Vector, a: number, b: number): number =>
  Math.asin(clamp((y + a * x + b * z) / Math.hypot(1, a, b), -1, 1)) / RAD;

function said(witnesses: readonly Witness[], a: number, b: number): number {
  let sum = 0;
  for (const { across, sigma, share, weight, within } of witnesses) {
    const off = offBy(across, a, b) / sigma;
    // a true witness is normal about 0, any other one is anywhere within what was asked
    sum +=
      weight *
      Math.log(
        (share * Math.exp(-0.5 * off * off)) / (sigma * Math.sqrt(2 * Math.PI)) +
          (1 - share) / (2 * within),
      );
  }
  return sum;
}

/**
 * Log likelihood of tilts away from the one that `level` found, by how the cameras were rolled:
 * each camera's x axis lies in the horizon but for the hand's shake, whose size the frames tell
 * themselves, and for a habit that all of them share.
 */
function rollPrior(placed: readonly Camera[]): (a: number, b: number) => number {
  const axes = placed.map(({ rotation: r }): Vector => {
    const x: Vector = [r[0]!, r[3]!, r[6]!];
    const y: Vector = [r[1]!, r[4]!, r[7]!];
    // of a frame on its side the y axis lies in the horizon
    return Math.abs(x[1]) < Math.abs(y[1]) ? x : y;
  });
  const rolls = axes.map((axis) => offBy(axis, 0, 0));
  const spread = Math.sqrt(rolls.reduce((s, v) => s + v * v, 0) / Math.max(1, rolls.length - 2));
  const sigma = Math.max(ROLL_SIGMA, spread);
  const n = axes.length;
  const shared = HABIT_SIGMA ** 2 / (sigma ** 2 + n * HABIT_SIGMA ** 2);
  return (a, b) => {
    let sum = 0;
    let square = 0;
    axes.forEach((axis, i) => {
      const off = offBy(axis, a, b) - rolls[i]!;
      sum += off;
      square += off * off;
    });
    // the inverse of s^2 I + h^2 1 1' (Sherman and Morrison)
    return (-0.5 * (square - shared * sum * sum)) / sigma ** 2;
  };
}

const seenFrom = (c: Camera, s: Segment): [Vector, Vector] =>
  [
    [s.x0, s.y0],
    [s.x1, s.y1],
  ].map(([x, y]) => unit(apply(c.rotation, rayOf(c, x!, y!)))) as [Vector, Vector];

/**
 * The plane of an edge and the camera holds the vertical if the edge is vertical; undefined where
 * it can be none.
 */
function verticalWitness(c: Camera, s: Segment): Witness[] | undefined {
  const [from, to] = seenFrom(c, s);
  const across = cross(from, to);
  const length = Math.hypot(...across);
  const middle = unit(from.map((v, i) => v + to[i]!));
  if (length < 1e-6 || Math.abs(middle[1]) > Math.sin(MAX_EDGE_HEIGHT_DEGREES * RAD))
    return undefined;
  const n = unit(across);
  return Math.abs(dot(n, [0, 1, 0])) < Math.sin(VERTICAL_WITHIN * RAD)
    ? [
        {
          across: n,
          sigma: EDGE_SIGMA,
          share: VERTICAL_SHARE,
          weight: EDGE_WEIGHT * Math.min(1, length / (5 * RAD)),
          within: VERTICAL_WITHIN,
        },
      ]
    : undefined;
}

/**
 * A long edge near the horizon runs square to the vertical if what it belongs to is level;
 * undefined for other edges.
 */
function levelWitness(c: Camera, s: Segment): Witness[] | undefined {
  if (Math.hypot(s.x1 - s.x0, s.y1 - s.y0) < MIN_HORIZON_SHARE * c.width) return undefined;
  const [from, to] = seenFrom(c, s);
  const along = to.map((v, i) => v - from[i]!) as Vector;
  const middle = unit(from.map((v, i) => v + to[i]!));
  const height = Math.abs(Math.asin(middle[1])) / RAD;
  const tangent = unit(along);
  if (height > HORIZON_WITHIN || Math.abs(tangent[1]) > Math.sin(HORIZON_WITHIN * RAD))
    return undefined;
  return [
    {
      across: tangent,
      sigma: Math.hypot(LEVEL_SIGMA, RECEDING_WEIGHT * height),
      share: LEVEL_SHARE,
      weight: LEVEL_WEIGHT,
      within: HORIZON_WITHIN,
    },
  ];
}
