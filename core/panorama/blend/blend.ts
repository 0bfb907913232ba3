import type { Heap } from "../../../kernels/heap";
import type { Accumulator } from "../../raster/accumulator";
import { addUp } from "../../raster/addUp";
import {
  coarserShape,
  collapse,
  pyramidShape,
  reduceAll,
  type PyramidShape,
} from "../../raster/pyramid";
import { seen, type Camera } from "../camera";
import { directionAt, type Canvas } from "../canvas/projection";
import type { Labels } from "../seams/seams";

/**
 * Levels over which frames are blended: the coarsest spreads a difference over about a hundred px.
 */
const LEVELS = 6;
/**
 * Pieces and bands lie on multiples of this, px, so that their pyramids' levels lie on each other.
 */
export const PYRAMID_UNIT = 2 ** LEVELS;
/**
 * How far blending reaches, px, but for traces: what a part of the picture needs beside itself to
 * come out as in the whole.
 */
export const BLEND_MARGIN = 3 * PYRAMID_UNIT;

/** A part of the canvas, px. */
export interface Bounds {
  x: number;
  y: number;
  width: number;
  height: number;
}
/**
 * What is blended in some bounds: planes of light and weights, under them the coarser levels of
 * their pyramids.
 */
export interface Sums {
  bounds: Bounds;
  finest: Accumulator;
  /** R, G, B, weight, of `coarserOf` */
  coarser: readonly number[];
}
/** Levels and size of a panorama's blending pyramids. */
export const coarserOf = ({ width, height }: Pick<Bounds, "width" | "height">): PyramidShape =>
  coarserShape(width, height, LEVELS);

/**
 * A frame's part of some bounds, px of them, its corner on multiples of 2 ^ LEVELS; of it only
 * columns `from` to `to` are added.
 */
export interface Piece extends Bounds {
  from: number;
  to: number;
}
/** Levels and size of the pyramid of one frame's piece. */
export const pieceShape = ({ width, height }: Piece): PyramidShape =>
  pyramidShape(width, height, LEVELS);

/** Places of the canvas at which it is asked whether a frame is seen lie so far apart, px. */
const PROBE_SPACING_PX = 16;
/**
 * Pixels of a piece at most, about, in shares of the bounds' and at least: its four pyramids take
 * 21 bytes each, and each cut through a frame has it warped twice as far as blending reaches.
 */
const PIECE_SHARE = 1 / 4;
const PIECE_PX = 6e6;

/**
 * The parts of some bounds that a frame has something to give to: what it covers, and of that its
 * own share by the seams and as much round it as blending reaches; where that is very wide, one
 * after the other.
 */
export function piecesOf(
  camera: Camera,
  canvas: Canvas,
  bounds: Bounds,
  labels: Pick<Labels, "width" | "height" | "of">,
  place: number,
): Piece[] {
  return ownParts(canvas, bounds, labels, place).flatMap((own) => {
    let x0 = Infinity;
    let x1 = -1;
    let y0 = Infinity;
    let y1 = -1;
    for (let y = own.y0; y < own.y1 + PROBE_SPACING_PX; y += PROBE_SPACING_PX)
      for (let x = own.x0; x < own.x1 + PROBE_SPACING_PX; x += PROBE_SPACING_PX) {
        const d = directionAt(
          canvas,
          bounds.x + Math.min(x, own.x1),
          bounds.y + Math.min(y, own.y1),
        );
        const p = d && seen(camera, d);
        if (
          !p ||
          p[0] < -PROBE_SPACING_PX ||
          p[1] < -PROBE_SPACING_PX ||
          p[0] > camera.width + PROBE_SPACING_PX ||
          p[1] > camera.height + PROBE_SPACING_PX
        )
          continue;
        x0 = Math.min(x0, x);
        x1 = Math.max(x1, x);
        y0 = Math.min(y0, y);
        y1 = Math.max(y1, y);
      }
    if (x1 <= x0 || y1 <= y0) return [];
    const [left, right] = inUnits(x0, Math.min(own.x1, x1), bounds.width);
    const [y, low] = inUnits(y0, Math.min(own.y1, y1), bounds.height);
    const height = low - y;
    const count = Math.max(
      1,
      Math.ceil(
        ((right - left) * height) / Math.max(PIECE_PX, bounds.width * bounds.height * PIECE_SHARE),
      ),
    );
    const step = Math.ceil((right - left) / count / PYRAMID_UNIT) * PYRAMID_UNIT;
    return Array.from({ length: Math.ceil((right - left) / step) }, (_, i): Piece => {
      const from = left + i * step;
      const to = Math.min(right, from + step);
      const x = Math.max(left, from - BLEND_MARGIN);
      return { x, y, width: Math.min(right, to + BLEND_MARGIN) - x, height, from, to };
    });
  });
}

/**
 * From and to, with the space between two such places on either side, on multiples of 2 ^ LEVELS;
 * as long as one at least, so that a pyramid has all levels.
 */
function inUnits(from: number, to: number, most: number): [number, number] {
  const end = Math.min(most, Math.ceil((to + 2 * PROBE_SPACING_PX) / PYRAMID_UNIT) * PYRAMID_UNIT);
  return [
    Math.max(
      0,
      Math.min(
        Math.floor((from - PROBE_SPACING_PX) / PYRAMID_UNIT),
        Math.floor((end - PYRAMID_UNIT) / PYRAMID_UNIT),
      ) * PYRAMID_UNIT,
    ),
    end,
  ];
}

/**
 * What the seams give to a frame, px of the bounds and within them, with as much round it as
 * blending reaches: side by side where it lies apart.
 */
function ownParts(
  canvas: Canvas,
  { x, y, width, height }: Bounds,
  labels: Pick<Labels, "width" | "height" | "of">,
  place: number,
): { x0: number; x1: number; y0: number; y1: number }[] {
  const sx = canvas.width / labels.width;
  const sy = canvas.height / labels.height;
  const first = Math.floor(x / sx) - 1;
  const last = Math.ceil((x + width) / sx) + 1;
  const parts: ReturnType<typeof ownParts> = [];
  const within = (v: number, most: number): number => Math.max(0, Math.min(most, v));
  for (let c = first; c <= last; c++) {
    const col = columnOf(c, labels.width, canvas.closed);
    let top = Infinity;
    let low = -1;
    for (let r = 0; r < labels.height; r++)
      if (labels.of[r * labels.width + col] === place + 1) {
        top = Math.min(top, r);
        low = r;
      }
    const x0 = within((c - 1) * sx - x - BLEND_MARGIN, width);
    const x1 = within((c + 2) * sx - x + BLEND_MARGIN, width);
    const y0 = within((top - 1) * sy - y - BLEND_MARGIN, height);
    const y1 = within((low + 2) * sy - y + BLEND_MARGIN, height);
    if (low < 0 || x1 <= x0 || y1 <= y0) continue;
    const before = parts.at(-1);
    // whole blocks apart, or else one
    if (before && x0 <= before.x1 + PYRAMID_UNIT) {
      before.x1 = Math.max(before.x1, x1);
      before.y0 = Math.min(before.y0, y0);
      before.y1 = Math.max(before.y1, y1);
    } else parts.push({ x0, x1, y0, y1 });
  }
  return parts;
}
/** A column of the seams' map, where a full turn goes round. */
export const columnOf = (c: number, width: number, closed: boolean): number => {
  if (c >= 0 && c < width) return c;
  if (closed) return ((c % width) + width) % width;
  return Math.max(0, Math.min(width - 1, c));
};

/** Makes a piece's plane at `at` a pyramid of means. */
export function reducePiece(heap: Heap, piece: Piece, at: number): void {
  reduceAll(heap, at, pieceShape(piece));
}
/** Bytes of scratch for one frame's piece. */
export const pieceScratch = (piece: Piece): number => piece.width * 8 + (1 << 14);

/**
 * Adds rows y0 to y1 of a piece, from a multiple of UNIT on, to the sums: what each level of its
 * light's pyramids has beyond the coarser one, under the pyramid of its mask, and the mask itself.
 * @param planes  pyramids of R, G, B and mask
 */
export function addPiece(
  heap: Heap,
  piece: Piece,
  planes: readonly number[],
  { bounds, finest, coarser }: Sums,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const below = coarserOf(bounds);
  const { levels } = pieceShape(piece);
  const detail = heap.alloc(piece.width * 4 + 64);
  const row = heap.alloc(piece.width * 4 + 64);
  levels.forEach((l, i) => {
    const to = i ? below.levels[i - 1]! : { w: bounds.width, h: bounds.height, at: 0 };
    const next = levels[i + 1];
    const x = piece.from >> i;
    const y = piece.y >> i;
    const from = (piece.from - piece.x) >> i;
    const cols = (piece.to < piece.x + piece.width ? (piece.to - piece.x) >> i : l.w) - from;
    const last = Math.min(y1 < piece.height ? y1 >> i : l.h, to.h - y);
    for (let r = y0 >> i; r < last; r++) {
      const line = r * l.w * 4;
      const skip = l.at + line + from * 4;
      const mask = planes[3]! + skip;
      for (let c = 0; c < 4; c++) {
        const sum =
          (i ? coarser[c]! + to.at : finest.ptr + c * finest.planeBytes) + ((y + r) * to.w + x) * 4;
        if (c === 3) addRow(heap, mask, undefined, cols, sum);
        else if (!next) addRow(heap, planes[c]! + skip, mask, cols, sum);
        else {
          // row r of the differences to where it would lie if they began at row 0
          heap.k.pyrUp(
            planes[c]! + next.at,
            l.w,
            l.h,
            planes[c]! + l.at,
            detail - line,
            -1,
            row,
            r,
            r + 1,
          );
          addRow(heap, detail + from * 4, mask, cols, sum);
        }
      }
    }
  });
  heap.release(mark);
}

/** Adds a row of n px, under a mask if there is one. */
function addRow(heap: Heap, row: number, mask: number | undefined, n: number, sum: number): void {
  const four = n & ~3;
  if (mask === undefined) heap.k.addPlane(row, four, sum);
  else heap.k.addProduct(row, mask, four, sum);
  if (four === n) return;
  // the kernels work in fours, and the rest of the sums' row is somebody else's
  const A = heap.f32(row, n);
  const D = heap.f32(sum, n);
  const M = mask === undefined ? undefined : heap.f32(mask, n);
  for (let k = four; k < n; k++) D[k]! += A[k]! * (M ? M[k]! : 1);
}

/** Divides a channel's coarser levels by their weights and adds them up. */
export function collapseCoarser(heap: Heap, { bounds, coarser }: Sums, c: number): void {
  const shape = coarserOf(bounds);
  for (const l of shape.levels) heap.k.divideBy(coarser[c]! + l.at, coarser[3]! + l.at, l.w * l.h);
  collapse(heap, coarser[c]!, shape);
}

/** Rows that are finished at once: few enough to stay near at hand from one pass to the next. */
const AT_ONCE = 4;
/**
 * Makes rows y0 to y1 (from a multiple of 16) of the finest sums light in the working space, once
 * the coarser levels are added up, and of their weights 1 where there is some.
 *
 * @param matrix  from the frames' colours
 */
export function finishRows(
  heap: Heap,
  { finest, coarser }: Sums,
  matrix: readonly number[],
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const m = heap.put(matrix);
  const { planeBytes, width } = finest;
  const light = coarser.slice(0, 3);
  for (let y = y0; y < y1; y += AT_ONCE) {
    const end = Math.min(y1, y + AT_ONCE);
    const at = finest.ptr + y * width * 4;
    const n = (end - y) * width;
    const weight = at + 3 * planeBytes;
    for (let c = 0; c < 3; c++) heap.k.divideBy(at + c * planeBytes, weight, n);
    addUp(heap, finest, light, y, end);
    for (let c = 0; c < 4; c++)
      heap.k.coveredSquares(c < 3 ? at + c * planeBytes : 0, weight, n, at + c * planeBytes);
    heap.k.finaliseRadiance(at, planeBytes, n, m);
  }
  heap.release(mark);
}

/**
 * Moves a plane's part from x, y on to its beginning, `width` by `height`, from rows `stride` px
 * long.
 */
export function cutOut(
  heap: Heap,
  plane: number,
  stride: number,
  { x, y, width, height }: Bounds,
): void {
  const px = heap.f32(plane, stride * (y + height));
  for (let r = 0; r < height; r++)
    px.copyWithin(r * width, (y + r) * stride + x, (y + r) * stride + x + width);
}
