import { apply } from "../raster/matrix3";
import { cross, dot, rayOf, turned, unit, type Camera, type Vector } from "./camera";
import { lineSegments, type Segment } from "../features/lineSegments";
import type { LookImage } from "./lookImage";

const RAD = Math.PI / 180;
/** Degrees by which the horizon may be off before edges are asked, the steps in which they are, and how exactly an upright edge is one. */
const WITHIN = 4, STEP = 0.4, EXACT = 0.3;
/** Edges may lie so high above the horizon or below it, degrees: nearer to the poles a level one passes for upright. */
const HIGH = 50;
/** How many edges have to agree, in how many frames, and how many times more than over all tilts. */
const LEAST = 10, FRAMES = 2, CLEARLY = 1.8;

/** Straight edges of a frame, px at full size. */
export function straightEdges({ width: w, height: h, rgb, scale }: LookImage): Segment[] {
  const grey = new Float32Array(w * h).map((_, i) => Math.sqrt(Math.max(0, (rgb[i * 3]! + 2 * rgb[i * 3 + 1]! + rgb[i * 3 + 2]!) / 4)));
  return lineSegments(w, h, grey, new Uint8Array(w * h).fill(1)).map((s) => ({ x0: s.x0 * scale, y0: s.y0 * scale, x1: s.x1 * scale, y1: s.y1 * scale }));
}

/**
 * Turns cameras that are about level by what is plumb in the frames: walls, posts, trunks. Every straight edge spans a plane
 * with the camera, which holds the vertical if the edge is upright; the vertical is where most such planes meet. Where too few
 * edges agree, the cameras stay as they are.
 *
 * @param edges  of each frame, px
 * @see Coughlan and Yuille, "Manhattan world", ICCV 1999 (the vertical from edges alone)
 */
export function plumb(cameras: readonly (Camera | undefined)[], edges: readonly (readonly Segment[])[]): (Camera | undefined)[] {
  const planes = cameras.flatMap((c, frame) => (c ? (edges[frame] ?? []).flatMap((s) => { const p = planeOf(c, s); return p ? [{ ...p, frame }] : []; }) : []));
  const off = (p: Plane, a: number, b: number): number => p.n[1] + a * p.n[0] + b * p.n[2];
  const agreed = (a: number, b: number): number => planes.reduce((s, p) => s + p.length * Math.exp(-((off(p, a, b) / (EXACT * RAD)) ** 2)), 0);
  let best = { a: 0, b: 0, score: -1 }, sum = 0, count = 0;
  for (let i = -WITHIN; i <= WITHIN; i += STEP) for (let j = -WITHIN; j <= WITHIN; j += STEP) {
    // a little better known where it is than elsewhere: between two as good the nearer one
    const a = i * RAD, b = j * RAD, score = agreed(a, b) * (1 - 0.1 * (Math.hypot(i, j) / WITHIN) ** 2);
    sum += score; count++;
    if (score > best.score) best = { a, b, score };
  }
  let { a, b } = best;
  for (let round = 0; round < 12; round++) {
    // least squares of what agrees, held a little where it is: a narrow view says little of its own pitch
    let xx = 0.05, xz = 0, zz = 0.05, x = 0.05 * a, z = 0.05 * b;
    for (const p of planes) {
      const w = p.length / (1 + (off(p, a, b) / (EXACT * RAD)) ** 2) ** 2;
      xx += w * p.n[0] ** 2; xz += w * p.n[0] * p.n[2]; zz += w * p.n[2] ** 2; x -= w * p.n[0] * p.n[1]; z -= w * p.n[2] * p.n[1];
    }
    const det = xx * zz - xz * xz;
    a = (x * zz - z * xz) / det;
    b = (z * xx - x * xz) / det;
  }
  const agree = planes.filter((p) => Math.abs(off(p, a, b)) < EXACT * RAD);
  if (agree.length < LEAST || new Set(agree.map((p) => p.frame)).size < FRAMES || best.score < (CLEARLY * sum) / count || Math.hypot(a, b) > WITHIN * RAD) return [...cameras];
  const down = unit([a, 1, b]), ahead = unit([0, 0, 1].map((v, i) => v - down[2] * down[i]!)), toWorld = [...cross(down, ahead), ...down, ...ahead];
  return cameras.map((c) => c && turned(c, toWorld));
}

/** The plane of an edge and the camera: its normal, and how long the edge is, in shares of a radian; undefined where it can be no upright one. */
interface Plane { n: Vector; length: number }
function planeOf(c: Camera, s: Segment): Plane | undefined {
  const [from, to] = [[s.x0, s.y0], [s.x1, s.y1]].map(([x, y]) => unit(apply(c.rotation, rayOf(c, x!, y!)))) as [Vector, Vector], across = cross(from, to), length = Math.hypot(...across), middle = unit(from.map((v, i) => v + to[i]!));
  if (length < 1e-6 || Math.abs(middle[1]) > Math.sin(HIGH * RAD)) return undefined;
  const n = unit(across);
  return Math.abs(dot(n, [0, 1, 0])) < Math.sin((2 * WITHIN) * RAD) ? { n, length } : undefined;
}
