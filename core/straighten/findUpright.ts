import type { Segment } from "../features/lineSegments";
import { clamp } from "../math/clamp";
import { rotationFromVector } from "../math/rotation";
import { cross, dot, unit, type Vector } from "../math/vector";

/** How a camera was held: by how much it was tilted up and rolled clockwise, degrees. */
export interface Upright {
  pitch: number;
  roll: number;
  /** how far each may be off, one standard deviation, degrees */
  pitchSigma: number;
  rollSigma: number;
  /** how many edges say so */
  edges: number;
}

/** Px of the longer side, about, of the picture that edges are looked for in. */
export const UPRIGHT_EDGE = 1000;
const RADIANS = Math.PI / 180;
/** Degrees by which cameras are tilted and rolled, and the most that is looked for. */
const HELD = { pitch: 8, roll: 3 };
const MOST = { pitch: 26, roll: 12 };
/** Steps of the first search, and the degrees by which an edge may be off there. */
const STEP_DEGREES = 0.5;
const COARSE_SIGMA = 0.35;
const FINE_STEP_DEGREES = 0.01;
/** Degrees by which the edges of upright things are off, and px by which each px of one is. */
const BUILT_SIGMA = 0.1;
const PLACE_SIGMA_PX = 0.4;
/** Share of edges taken for vertical before they are asked; degrees within which the others lie. */
const VERTICAL_SHARE = 0.35;
const WITHIN_DEGREES = 40;
/** Peak density of edges of a sigma of 1 degree that are vertical, over that of the others. */
const VERTICAL_OVER_OTHERS = (VERTICAL_SHARE / Math.sqrt(2 * Math.PI)) * 2 * WITHIN_DEGREES;
/** Sigmas beyond which no edge is a vertical one. */
const FAR_SIGMA = 6;
/** Edges are no independent witnesses: one thing has several. */
const EDGE_WEIGHT = 0.35;
/** Of the picture's longer side: an edge of this length counts whole. */
const WHOLE_LENGTH = 0.12;
/** Log likelihood that vertical edges have to gain over edges that lie anyhow. */
const CLEAR_GAIN = 6;
/** How many tilts are looked at closely, and degrees by which they differ. */
const PEAKS = 12;
const RIVAL_AWAY = 1.5;
/** The fewest edges that are believed. */
const FEWEST_EDGES = 4;
/** Degrees of doubt above which a tilt, or a roll, is not known. */
const KNOWN_DEGREES = { pitch: 1.2, roll: 0.6 };
/** What a fitted tilt is off by more than its edges tell, as they err together. */
const TOGETHER = 2;

interface Edge {
  /** of the plane through the camera and the edge */
  normal: Vector;
  sigma: number;
  weight: number;
}

/**
 * The vertical's direction in a camera that is tilted up and rolled clockwise.
 *
 * @param pitch  radians, as roll
 */
function verticalAt(pitch: number, roll: number): Vector {
  const [sp, cp] = [Math.sin(pitch), Math.cos(pitch)];
  return [Math.sin(roll) * cp, Math.cos(roll) * cp, -sp];
}

/** The turn of a camera that was held so to one that stands upright; camera to turned camera. */
export function uprightTurn({ pitch, roll }: { pitch: number; roll: number }): number[] {
  const down = verticalAt(pitch * RADIANS, roll * RADIANS);
  const axis = cross(down, [0, 1, 0]);
  const size = Math.hypot(...axis);
  if (size < 1e-12) return [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const angle = Math.atan2(size, down[1]);
  return rotationFromVector(axis.map((v) => (v / size) * angle));
}

/** What edges of a picture say of the vertical. */
function edgesOf(
  segments: readonly Segment[],
  { width, height, focalPx }: { width: number; height: number; focalPx: number },
): Edge[] {
  const long = Math.max(width, height);
  return segments.flatMap((s): Edge[] => {
    const length = Math.hypot(s.x1 - s.x0, s.y1 - s.y0);
    const ray = (x: number, y: number): Vector => [x - width / 2, y - height / 2, focalPx];
    const normal = unit(cross(ray(s.x0, s.y0), ray(s.x1, s.y1)));
    if (Math.abs(normal[1]) > Math.sin(WITHIN_DEGREES * RADIANS)) return [];
    // the slope of a line fitted to as many px
    const measured = (PLACE_SIGMA_PX * Math.sqrt(12)) / length ** 1.5 / RADIANS;
    return [
      {
        normal,
        sigma: Math.hypot(BUILT_SIGMA, measured),
        weight: EDGE_WEIGHT * Math.min(1, length / (WHOLE_LENGTH * long)),
      },
    ];
  });
}

const offBy = ({ normal }: Edge, vertical: Vector): number =>
  Math.asin(clamp(dot(normal, vertical), -1, 1)) / RADIANS;

/** Log likelihood of edges at a vertical over that of edges that lie anyhow. */
function gainOf(edges: readonly Edge[], [x, y, z]: Vector, leastSigma: number): number {
  let sum = 0;
  for (const { normal, sigma: own, weight } of edges) {
    const sigma = Math.max(own, leastSigma);
    const off = (normal[0] * x + normal[1] * y + normal[2] * z) / (sigma * RADIANS);
    const asVertical = Math.abs(off) < FAR_SIGMA ? Math.exp(-0.5 * off * off) / sigma : 0;
    sum += weight * Math.log(VERTICAL_OVER_OTHERS * asVertical + 1 - VERTICAL_SHARE);
  }
  return sum;
}

const heldSo = (pitch: number, roll: number): number =>
  -0.5 * ((pitch / HELD.pitch) ** 2 + (roll / HELD.roll) ** 2);

interface Found {
  pitch: number;
  roll: number;
  value: number;
}

/**
 * How a camera was held, from the edges of one picture: those of walls, doors and windows are
 * vertical and meet in one direction. Every edge is a witness that may be wrong, so that things that
 * lean hardly count. Undefined where the edges do not say it clearly: too few of them, or another
 * tilt that they fit nearly as well. Where only the roll is known the pitch is 0.
 *
 * @param segments  px of the picture, as the lens's focal length
 * @see Coughlan and Yuille, "Manhattan world", ICCV 1999 (the vertical from edges with a prior of how
 *   cameras are held); Lee, Shechtman, Wang and Lee, "Automatic upright adjustment of photographs",
 *   CVPR 2012
 */
export function findUpright(
  segments: readonly Segment[],
  lens: { width: number; height: number; focalPx: number },
): Upright | undefined {
  const edges = edgesOf(segments, lens);
  const valueAt = (pitch: number, roll: number, sigma: number): number =>
    gainOf(edges, verticalAt(pitch * RADIANS, roll * RADIANS), sigma) + heldSo(pitch, roll);
  const found = peaks((pitch, roll) => valueAt(pitch, roll, COARSE_SIGMA))
    .map((peak) => refine(peak, valueAt))
    .sort((a, b) => b.value - a.value);
  const best = found[0]!;
  const rival = found.find(
    ({ pitch, roll }) => Math.hypot(pitch - best.pitch, roll - best.roll) > RIVAL_AWAY,
  );
  if (best.value < CLEAR_GAIN || best.value - (rival?.value ?? 0) < CLEAR_GAIN / 2)
    return undefined;
  return known(best, edges);
}

/** The highest peaks of a value over the tilts and rolls that cameras are held by. */
function peaks(valueAt: (pitch: number, roll: number) => number): Found[] {
  const across = 2 * Math.round(MOST.roll / STEP_DEGREES) + 1;
  const down = 2 * Math.round(MOST.pitch / STEP_DEGREES) + 1;
  const tried = Array.from({ length: across * down }, (_, i): Found => {
    const roll = (i % across) * STEP_DEGREES - MOST.roll;
    const pitch = Math.floor(i / across) * STEP_DEGREES - MOST.pitch;
    return { pitch, roll, value: valueAt(pitch, roll) };
  });
  const valueOf = (column: number, row: number): number =>
    column < 0 || row < 0 || column >= across || row >= down
      ? -Infinity
      : tried[row * across + column]!.value;
  const isPeak = ({ value }: Found, i: number): boolean => {
    const [column, row] = [i % across, Math.floor(i / across)];
    return [-1, 0, 1].every((dy) =>
      [-1, 0, 1].every((dx) => value >= valueOf(column + dx, row + dy)),
    );
  };
  return tried
    .filter(isPeak)
    .sort((a, b) => b.value - a.value)
    .slice(0, PEAKS);
}

/** The best near a start, ever finer, while edges are taken ever more exactly. */
function refine(
  start: Found,
  valueAt: (pitch: number, roll: number, sigma: number) => number,
): Found {
  let best = start;
  for (let step = STEP_DEGREES / 2; step >= FINE_STEP_DEGREES; step /= 2) {
    const sigma = Math.min(COARSE_SIGMA, step);
    best = { ...best, value: valueAt(best.pitch, best.roll, sigma) };
    for (let moved = true; moved;) {
      moved = false;
      for (const [a, b] of [
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ] as const) {
        const [pitch, roll] = [best.pitch + a * step, best.roll + b * step];
        const value = valueAt(pitch, roll, sigma);
        if (value <= best.value) continue;
        best = { pitch, roll, value };
        moved = true;
      }
    }
  }
  return best;
}

/** How well edges that agree with a tilt tell it; undefined where too few do. */
function known({ pitch, roll }: Found, edges: readonly Edge[]): Upright | undefined {
  const vertical = verticalAt(pitch * RADIANS, roll * RADIANS);
  const agreeing = edges.filter((edge) => Math.abs(offBy(edge, vertical)) < 3 * edge.sigma);
  if (agreeing.length < FEWEST_EDGES) return undefined;
  const byPitch = verticalAt(pitch * RADIANS + 1e-4, roll * RADIANS);
  const byRoll = verticalAt(pitch * RADIANS, roll * RADIANS + 1e-4);
  let [pp, pr, rr] = [1 / HELD.pitch ** 2, 0, 1 / HELD.roll ** 2];
  for (const edge of agreeing) {
    const now = offBy(edge, vertical);
    const p = ((offBy(edge, byPitch) - now) * RADIANS) / 1e-4;
    const r = ((offBy(edge, byRoll) - now) * RADIANS) / 1e-4;
    const counts = edge.weight / EDGE_WEIGHT / edge.sigma ** 2;
    pp += counts * p * p;
    pr += counts * p * r;
    rr += counts * r * r;
  }
  const determinant = pp * rr - pr * pr;
  const pitchSigma = TOGETHER * Math.sqrt(rr / determinant);
  const rollSigma = TOGETHER * Math.sqrt(pp / determinant);
  if (rollSigma > KNOWN_DEGREES.roll) return undefined;
  const isTiltKnown = pitchSigma <= KNOWN_DEGREES.pitch;
  return {
    pitch: isTiltKnown ? pitch : 0,
    roll,
    pitchSigma,
    rollSigma,
    edges: agreeing.length,
  };
}
