import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { solveSymmetric } from "../align/solveSymmetric";
import { project, type Matrix3 } from "../raster/matrix3";
import { areasOf } from "../suspects/areas";

/** A box in px of the reduced first frame in which edges lie elsewhere in the second, and by how far, full-size px. */
export interface EdgeArea { x0: number; y0: number; x1: number; y1: number; px: number }
/** The same in full-size px of the reference frame, with the places of both frames. */
export interface DisplacedEdges { x: number; y: number; width: number; height: number; frames: [number, number]; px: number }

/** Side of the blocks that are summed, px of the reduced frame; a cell is two by two of them, and cells overlap by half. */
const BLOCK = 12, CELL = 2 * BLOCK;
/** Full-size and reduced px from which on an edge is seen twice; in standard errors; cells of the smallest area. */
const SEEN = 1.5, TOLD = 0.3, CERTAIN = 6, SMALLEST = 2;
/** Px at the frame's border that have no slope. */
const RIM = 2;
/** Px of the reduced frame beyond which a first-order step does not reach. */
const REACH = 2.5;
/** Votes below this say nothing; variance, as a share of squared light, that no cell falls short of, for neighbouring px err together. */
const LEAST_VOTE = 0.3, MODEL_VARIANCE = 0.014 ** 2, ALIKE = 4;

/**
 * Edges that moved against the rest between two neighbours along the focus travel, as with wind, a leg, or the parallax of
 * a hand. Cell by cell the shift along the steepest direction is found together with the change of blur (the Laplacian)
 * and of light, so that focus itself moves nothing; in linear light, in which blur is symmetric.
 *
 * @param offset  EV by which the second is darker
 * @param onward  the first frame's px to the second's, reduced
 * @param scale   full-size px a px of the reduced frames
 * @see Lucas and Kanade, "An iterative image registration technique", 1981
 */
export function displacedEdges(heap: Heap, [first, second]: readonly [LogPyramid, LogPyramid], offset: number, onward: Matrix3, scale: number): EdgeArea[] {
  const { w, h, log, vote } = first.levels[0]!, other = second.levels[0]!, mark = heap.mark(), [a, b] = [heap.alloc(w * h * 4 + 16), heap.alloc(w * h * 4 + 16)];
  const planes: Planes = { w, h, A: linear(heap, log, a, w * h, 0), VA: heap.f32(vote, w * h), B: linear(heap, other.log, b, w * h, offset), VB: heap.f32(other.vote, w * h) };
  const blocks = Math.max(1, Math.floor((w - 2 * RIM) / BLOCK)), lines = Math.max(1, Math.floor((h - 2 * RIM) / BLOCK)), across = blocks - 1, down = lines - 1, far = new Float32Array(across * down);
  const sums = Array.from({ length: blocks * lines }, (_, i) => sumsOf(planes, onward, RIM + (i % blocks) * BLOCK, RIM + Math.floor(i / blocks) * BLOCK));
  for (let v = 0; v < down; v++) for (let u = 0; u < across; u++) { const i = v * blocks + u; far[v * across + u] = shiftOf([i, i + 1, i + blocks, i + blocks + 1].map((k) => sums[k]!).reduce(plus)); }
  heap.release(mark);
  return areasOf(across, down, (i) => far[i]! > Math.max(SEEN / scale, TOLD), SMALLEST, (i) => far[i]!).map((a) => ({ x0: RIM + a.x0 * BLOCK, y0: RIM + a.y0 * BLOCK, x1: RIM + (a.x1 + 1) * BLOCK, y1: RIM + (a.y1 + 1) * BLOCK, px: Math.round(a.mean * scale * 10) / 10 }));
}

/** Where an area lies in the reference frame. @param home  the first frame's px to the reference's, reduced */
export function inReference({ x0, y0, x1, y1, px }: EdgeArea, home: Matrix3, frames: [number, number], scale: number): DisplacedEdges {
  const [left, top] = project(home, x0, y0), [right, bottom] = project(home, x1, y1), x = Math.max(0, left), y = Math.max(0, top);
  return { x: Math.round(x * scale), y: Math.round(y * scale), width: Math.round((right - x) * scale), height: Math.round((bottom - y) * scale), frames, px };
}

/** Scratch bytes a px of the reduced frame. */
export const DISPLACED_BYTES = 8;
function linear(heap: Heap, log: number, to: number, n: number, offset: number): Float32Array {
  heap.k.lightOf(log, n, 2 ** offset, to);
  return heap.f32(to, n);
}

interface Planes { w: number; h: number; A: Float32Array; VA: Float32Array; B: Float32Array; VB: Float32Array }
/** Over a block or a cell: the count, products of slope along x and y, Laplacian (l), one and difference (e), and the light. */
interface Sums { n: number; xx: number; xy: number; xl: number; x1: number; xe: number; yy: number; yl: number; y1: number; ye: number; ll: number; l1: number; le: number; e1: number; ee: number; light: number }

function plus(a: Sums, b: Sums): Sums {
  return { n: a.n + b.n, xx: a.xx + b.xx, xy: a.xy + b.xy, xl: a.xl + b.xl, x1: a.x1 + b.x1, xe: a.xe + b.xe, yy: a.yy + b.yy, yl: a.yl + b.yl, y1: a.y1 + b.y1, ye: a.ye + b.ye, ll: a.ll + b.ll, l1: a.l1 + b.l1, le: a.le + b.le, e1: a.e1 + b.e1, ee: a.ee + b.ee, light: a.light + b.light };
}

/** Sums over one block; a function of its own, since all the time goes here. */
function sumsOf({ w, h, A, VA, B, VB }: Planes, m: Matrix3, left: number, top: number): Sums {
  const m0 = m[0]!, m1 = m[1]!, m2 = m[2]!, m3 = m[3]!, m4 = m[4]!, m5 = m[5]!, m6 = m[6]!, m7 = m[7]!, m8 = m[8]!;
  let n = 0, xx = 0, xy = 0, xl = 0, x1 = 0, xe = 0, yy = 0, yl = 0, y1 = 0, ye = 0, ll = 0, l1 = 0, le = 0, e1 = 0, ee = 0, light = 0;
  for (let y = top; y < top + BLOCK; y++) for (let x = left; x < left + BLOCK; x++) {
    const i = y * w + x;
    if (VA[i]! < LEAST_VOTE) continue;
    const d = m6 * (x + 0.5) + m7 * (y + 0.5) + m8, px = (m0 * (x + 0.5) + m1 * (y + 0.5) + m2) / d - 0.5, py = (m3 * (x + 0.5) + m4 * (y + 0.5) + m5) / d - 0.5, ix = Math.floor(px), iy = Math.floor(py);
    if (ix < 1 || iy < 1 || ix >= w - 2 || iy >= h - 2) continue;
    const k = iy * w + ix;
    if (VB[k]! < LEAST_VOTE || VB[k + 1]! < LEAST_VOTE || VB[k + w]! < LEAST_VOTE || VB[k + w + 1]! < LEAST_VOTE) continue;
    const fx = px - ix, fy = py - iy, b = (B[k]! * (1 - fx) + B[k + 1]! * fx) * (1 - fy) + (B[k + w]! * (1 - fx) + B[k + w + 1]! * fx) * fy;
    // slopes of both in the mean: noise of one draws a shift towards nothing, blur of one towards its own
    const gx = (A[i + 1]! - A[i - 1]! + (B[k + 1]! - B[k - 1]!) * (1 - fx) + (B[k + 2]! - B[k]!) * fx) / 4, gy = (A[i + w]! - A[i - w]! + (B[k + w]! - B[k - w]!) * (1 - fy) + (B[k + 2 * w]! - B[k]!) * fy) / 4;
    const l = A[i - 1]! + A[i + 1]! + A[i - w]! + A[i + w]! - 4 * A[i]!, e = A[i]! - b;
    n++;
    xx += gx * gx; xy += gx * gy; xl += gx * l; x1 += gx; xe += gx * e;
    yy += gy * gy; yl += gy * l; y1 += gy; ye += gy * e;
    ll += l * l; l1 += l; le += l * e; e1 += e; ee += e * e; light += A[i]!;
  }
  return { n, xx, xy, xl, x1, xe, yy, yl, y1, ye, ll, l1, le, e1, ee, light };
}

/** Px by which a cell's edges moved along the direction in which most of them are steep; 0 where that is not to be told. */
function shiftOf({ n, xx, xy, xl, x1, xe, yy, yl, y1, ye, ll, l1, le, e1, ee, light }: Sums): number {
  if (n < (CELL * CELL) / 2) return 0;
  const turn = 0.5 * Math.atan2(2 * xy, xx - yy), c = Math.cos(turn), q = Math.sin(turn);
  const gg = c * c * xx + 2 * c * q * xy + q * q * yy, gl = c * xl + q * yl, g1 = c * x1 + q * y1, ge = c * xe + q * ye;
  const A = (): number[][] => [[gg, gl, g1], [gl, ll, l1], [g1, l1, n]], b = [ge, le, e1], found = solveSymmetric(A(), b), inverse = solveSymmetric(A(), [1, 0, 0]);
  if (!found || !inverse) return 0;
  const rest = Math.max(0, ee - found[0]! * ge - found[1]! * le - found[2]! * e1), variance = (rest / n + MODEL_VARIANCE * (light / n) ** 2) * ALIKE;
  const far = Math.abs(found[0]!);
  return far < REACH && far > CERTAIN * Math.sqrt(variance * inverse[0]!) && rest < 0.7 * ee ? far : 0;
}
