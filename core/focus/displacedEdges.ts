import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { solveSymmetric } from "../math/solveSymmetric";
import { project, type Matrix3 } from "../math/matrix3";
import { areasOf } from "../suspects/areas";

/**
 * A box in px of the reduced first frame in which edges lie elsewhere in the second, and by how
 * far, full-size px.
 */
export interface EdgeArea {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  px: number;
}
/** The same in full-size px of the reference frame, with the places of both frames. */
export interface DisplacedEdges {
  x: number;
  y: number;
  width: number;
  height: number;
  frames: [number, number];
  px: number;
}

/**
 * Side of the blocks that are summed, px of the reduced frame; a cell is two by two of them, and
 * cells overlap by half.
 */
const BLOCK = 12;
const CELL = 2 * BLOCK;
/**
 * Full-size and reduced px from which on an edge is seen twice; in standard errors; cells of the
 * smallest area.
 */
const DOUBLED_FULL_PX = 1.5;
const DOUBLED_REDUCED_PX = 0.3;
const MIN_SIGMA = 6;
const MIN_AREA_CELLS = 2;
/** Px at the frame's border that have no slope. */
const BORDER_PX = 2;
/** Px of the reduced frame beyond which a first-order step does not reach. */
const MAX_STEP_PX = 2.5;
/**
 * Confidences below this say nothing; variance, as a share of squared light, that no cell falls
 * short of, for neighbouring px err together.
 */
const MIN_CONFIDENCE = 0.3;
const MODEL_VARIANCE = 0.014 ** 2;
const CORRELATED_PX_FACTOR = 4;

/**
 * Edges that moved against the rest between two neighbours along the focus travel, as with wind, a
 * leg, or the parallax of a hand. Cell by cell the shift along the steepest direction is found
 * together with the change of blur (the Laplacian) and of light, so that focus itself moves
 * nothing; in linear light, in which blur is symmetric.
 *
 * @param offset  EV by which the second is darker
 * @param onward  the first frame's px to the second's, reduced
 * @param scale   full-size px a px of the reduced frames
 * @see Lucas and Kanade, "An iterative image registration technique", 1981
 */
export function displacedEdges(
  heap: Heap,
  [first, second]: readonly [LogPyramid, LogPyramid],
  offset: number,
  onward: Matrix3,
  scale: number,
): EdgeArea[] {
  const { w, h, log, confidence } = first.levels[0]!;
  const other = second.levels[0]!;
  const mark = heap.mark();
  const [a, b] = [heap.alloc(w * h * 4 + 16), heap.alloc(w * h * 4 + 16)];
  heap.k.lightOf(log, w * h, 1, a);
  heap.k.lightOf(other.log, w * h, 2 ** offset, b);
  const blocks = Math.max(1, Math.floor((w - 2 * BORDER_PX) / BLOCK));
  const lines = Math.max(1, Math.floor((h - 2 * BORDER_PX) / BLOCK));
  const across = blocks - 1;
  const down = lines - 1;
  const far = new Float32Array(across * down);
  const out = heap.alloc(blocks * lines * SUMS_A_BLOCK * 8);
  heap.k.blockSlopes(
    a,
    confidence,
    b,
    other.confidence,
    w,
    h,
    heap.put(onward, "f64"),
    BORDER_PX,
    BLOCK,
    blocks,
    lines,
    MIN_CONFIDENCE,
    out,
  );
  const sums = heap.f64(out, blocks * lines * SUMS_A_BLOCK);
  const cell = new Float64Array(SUMS_A_BLOCK);
  for (let v = 0; v < down; v++)
    for (let u = 0; u < across; u++) {
      const i = (v * blocks + u) * SUMS_A_BLOCK;
      const below = i + blocks * SUMS_A_BLOCK;
      for (let c = 0; c < SUMS_A_BLOCK; c++)
        cell[c] =
          sums[i + c]! +
          sums[i + SUMS_A_BLOCK + c]! +
          sums[below + c]! +
          sums[below + SUMS_A_BLOCK + c]!;
      far[v * across + u] = shiftOf(cell);
    }
  heap.release(mark);
  return areasOf(
    across,
    down,
    (i) => far[i]! > Math.max(DOUBLED_FULL_PX / scale, DOUBLED_REDUCED_PX),
    MIN_AREA_CELLS,
    (i) => far[i]!,
  ).map((a) => ({
    x0: BORDER_PX + a.x0 * BLOCK,
    y0: BORDER_PX + a.y0 * BLOCK,
    x1: BORDER_PX + (a.x1 + 1) * BLOCK,
    y1: BORDER_PX + (a.y1 + 1) * BLOCK,
    px: Math.round(a.mean * scale * 10) / 10,
  }));
}

/**
 * Where an area lies in the reference frame.
 *
 * @param home  the first frame's px to the reference's, reduced
 */
export function inReference(
  { x0, y0, x1, y1, px }: EdgeArea,
  home: Matrix3,
  frames: [number, number],
  scale: number,
): DisplacedEdges {
  const [left, top] = project(home, x0, y0);
  const [right, bottom] = project(home, x1, y1);
  const x = Math.max(0, left);
  const y = Math.max(0, top);
  return {
    x: Math.round(x * scale),
    y: Math.round(y * scale),
    width: Math.round((right - x) * scale),
    height: Math.round((bottom - y) * scale),
    frames,
    px,
  };
}

/** Scratch bytes a px of the reduced frame: light of both, and sums. */
export const DISPLACED_BYTES = 9;
/** Doubles that `blockSlopes` tells of a block. */
const SUMS_A_BLOCK = 16;

/**
 * Px by which a cell's edges moved along the direction in which most of them are steep; 0 where
 * that is not to be reported.
 */
function shiftOf(sums: Float64Array): number {
  const [n, xx, xy, xl, x1, xe, yy, yl, y1, ye, ll, l1, le, e1, ee, light] =
    sums as unknown as readonly [
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
    ];
  if (n < (CELL * CELL) / 2) return 0;
  const turn = 0.5 * Math.atan2(2 * xy, xx - yy);
  const c = Math.cos(turn);
  const q = Math.sin(turn);
  const gg = c * c * xx + 2 * c * q * xy + q * q * yy;
  const gl = c * xl + q * yl;
  const g1 = c * x1 + q * y1;
  const ge = c * xe + q * ye;
  const A = (): number[][] => [
    [gg, gl, g1],
    [gl, ll, l1],
    [g1, l1, n],
  ];
  const b = [ge, le, e1];
  const found = solveSymmetric(A(), b);
  const inverse = solveSymmetric(A(), [1, 0, 0]);
  if (!found || !inverse) return 0;
  const rest = Math.max(0, ee - found[0]! * ge - found[1]! * le - found[2]! * e1);
  const variance = (rest / n + MODEL_VARIANCE * (light / n) ** 2) * CORRELATED_PX_FACTOR;
  const far = Math.abs(found[0]!);
  return far < MAX_STEP_PX && far > MIN_SIGMA * Math.sqrt(variance * inverse[0]!) && rest < 0.7 * ee
    ? far
    : 0;
}
