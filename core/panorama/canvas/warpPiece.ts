import type { Heap } from "../../../kernels/heap";
import type { ReducedFrame } from "../../align/logPyramid";
import { linearTile } from "../../raster/sampleTile";
import type { Bounds, Piece } from "../blend/blend";
import { drawnIn, seen, type Camera } from "../camera";
import { falloff, rampAt, type Light } from "../blend/light";
import { directionAt, type Canvas } from "./projection";
import { seamWindow } from "../seams/seamWindow";

export interface WarpInput {
  frame: ReducedFrame;
  /** at the scale of the samples */
  camera: Camera;
  canvas: Canvas;
  light: Light;
  /** place of the frame */
  place: number;
  bounds: Bounds;
  piece: Piece;
  /**
   * planes R, G, B as square roots of evened light, and the mask, of the piece's size and evenly
   * apart
   */
  planes: number[];
  /** the seams' map at this address */
  labels: { ptr: number; width: number; height: number };
}

/**
 * Distance of the places at which the way from canvas to frame is computed exactly; between them it
 * is a line.
 */
const NODE = 16;
/** Nodes of a block that is warped at once: tall, as a wide projection bends the frame's rows. */
const NODES_ACROSS = 8;
const NODES_DOWN = 4;
/** Rows from multiples of this on come out the same in whatever strips they are warped. */
export const BLOCK_ROWS = NODE * NODES_DOWN;

/** x, y in px of a frame, and a factor on its light. */
type Node = readonly [number, number, number];
/** Nodes of a block, row by row; undefined where the frame is not seen. */
type Grid = readonly (readonly (Node | undefined)[])[];

/**
 * A frame reaches so far round a column that is warped at once, px; the column leans by no more, and
 * takes no more of the frame's rows for one of its own.
 */
const COLUMN_REACH_PX = 5;
const MAX_LEAN = 0.2;
const MAX_ROW_DENSITY = 2;

/**
 * Whether a column of nodes' cells lies in the frame nearly upright: it may be sampled across and
 * then down.
 */
function isUpright(grid: Grid, c: number, { width, height }: Camera): boolean {
  return grid.every((row, r) =>
    [row[c], row[c + 1]].every((p, side) => {
      if (
        !p ||
        p[0] < COLUMN_REACH_PX ||
        p[1] < COLUMN_REACH_PX ||
        p[0] > width - COLUMN_REACH_PX ||
        p[1] > height - COLUMN_REACH_PX
      )
        return false;
      const before = r ? grid[r - 1]![c + side] : undefined;
      if (!before) return r === 0;
      const down = p[1] - before[1];
      return (
        down > 0 && down < MAX_ROW_DENSITY * NODE && Math.abs(p[0] - before[0]) < MAX_LEAN * down
      );
    }),
  );
}

/**
 * Lays rows y0 to y1 of a frame's piece on the canvas. Beyond the frame and its image circle its
 * edge goes on, so that no dark is blended in.
 */
export function warpPiece(
  heap: Heap,
  { frame, camera, canvas, light, place, bounds, piece, planes, labels }: WarpInput,
  y0: number,
  y1: number,
): void {
  const outer = heap.mark();
  const lut = heap.putTables(frame.lut, frame.type);
  const gains = heap.put(light.gains[place]!);
  const { width: w } = piece;
  const originX = bounds.x + piece.x;
  const originY = bounds.y + piece.y;
  const line = w * 4;
  const apart = planes[1]! - planes[0]!;
  const nodes = heap.alloc(2 * Math.max(NODES_ACROSS + 1, NODES_DOWN + 1) * 16);
  const along = heap.f32(nodes, 2 * Math.max(NODES_ACROSS + 1, NODES_DOWN + 1) * 4);
  const lows = (NODES_ACROSS + 1) * 4;
  // what lies far beside the frame is only to lie beside it: there the numbers would grow beyond
  // all bounds
  const near = (v: number, size: number, by: number): number =>
    Math.max(-by * size, Math.min((1 + by) * size, v));
  const node = (x: number, y: number): Node | undefined => {
    const d = directionAt(canvas, originX + x, originY + y);
    const q = d && seen(camera, d);
    const p = q && drawnIn(camera, q);
    return (
      p && [
        near(p[0], camera.width, 9),
        near(p[1], camera.height, 9),
        rampAt(light, d) /
          falloff(light, camera, near(p[0], camera.width, 0.1), near(p[1], camera.height, 0.1)),
      ]
    );
  };
  const clampX = (v: number): number => Math.max(-2, Math.min(camera.width + 2, v));
  const clampY = (v: number): number => Math.max(-2, Math.min(camera.height + 2, v));
  for (let a = 0; a < w; a += NODE * NODES_ACROSS)
    for (let b = y0, next: (Node | undefined)[] = []; b < y1; b += NODE * NODES_DOWN) {
      const bottom = Math.min(y1, b + NODE * NODES_DOWN);
      const right = Math.min(w, a + NODE * NODES_ACROSS);
      const columns = Math.ceil((right - a) / NODE);
      const inner = heap.mark();
      const rows = Math.ceil((bottom - b) / NODE);
      const grid = Array.from({ length: rows + 1 }, (_, r) =>
        r || b === y0
          ? Array.from({ length: columns + 1 }, (_n, i) =>
              node(a + i * NODE, Math.min(bottom, b + r * NODE)),
            )
          : next,
      );
      next = grid[rows]!;
      const known = grid.flat().filter((p): p is Node => p !== undefined);
      const blank = (x0: number, x1: number, from: number, to: number): void => {
        for (let y = from; y < to; y++)
          for (const p of planes) heap.k.zero(p + (y * w + x0) * 4, (x1 - x0) * 4);
      };
      if (!known.length) {
        blank(a, right, b, bottom);
        continue;
      }
      const left = Math.max(-3, Math.floor(clampX(Math.min(...known.map((p) => p[0])))) - 4);
      const top = Math.max(-3, Math.floor(clampY(Math.min(...known.map((p) => p[1])))) - 4);
      const source = {
        left,
        top,
        width:
          Math.min(camera.width + 3, Math.ceil(clampX(Math.max(...known.map((p) => p[0])))) + 4) -
          left,
        height:
          Math.min(camera.height + 3, Math.ceil(clampY(Math.max(...known.map((p) => p[1])))) + 4) -
          top,
      };
      const tile =
        source.width * source.height < TILE_MOST
          ? linearTile(
              heap,
              { samples: frame.ptr, type: frame.type, width: frame.width, height: frame.height },
              source,
              lut,
            )
          : 0;
      const seams = seamWindow(heap, labels, canvas, place + 1, {
        x: originX + a - NODE,
        y: originY + b - NODE,
        width: (NODES_ACROSS + 2) * NODE,
        height: (NODES_DOWN + 2) * NODE,
      });
      const [u, v] = seams.at(originX + a, originY + b);
      // how far a place lies with this frame: smooth between the cells' middles
      heap.k.shareRows(
        seams.cells,
        seams.across,
        u,
        seams.perX,
        right - a,
        v,
        seams.perY,
        bottom - b,
        heap.alloc(seams.across * 4),
        planes[3]! + b * line + a * 4,
        line,
      );
      // what has no share, nor have its neighbours, is blended in at coarse levels at most: it may
      // be soft
      const sharp = Array.from({ length: rows }, (_, r) =>
        Array.from({ length: columns }, (_n, c) =>
          seams.any(
            originX + a + (c - 1) * NODE,
            originX + a + (c + 2) * NODE,
            originY + b + (r - 1) * NODE,
            originY + b + (r + 2) * NODE,
          ),
        ),
      );
      const done = Array.from(
        { length: columns },
        (_, c) => tile > 0 && sharp.some((row) => row[c]) && isUpright(grid, c, camera),
      );
      const column = heap.alloc((source.height + 8) * 64);
      for (let c = 0; c < columns; c++)
        if (done[c]) {
          grid.forEach((row, r) => {
            for (let side = 0; side < 2; side++)
              for (let q = 0; q < 3; q++) along[r * 8 + side * 4 + q] = row[c + side]![q]!;
          });
          heap.k.warpColumn(
            tile,
            source.left,
            source.top,
            source.width,
            source.height,
            nodes,
            NODE,
            Math.min(NODE, right - a - c * NODE),
            bottom - b,
            gains,
            column,
            planes[0]! + b * line + (a + c * NODE) * 4,
            line,
            apart,
          );
        }
      for (let r = 0; r < rows; r++) {
        const from = b + r * NODE;
        const to = Math.min(bottom, from + NODE);
        const seenAll = (c: number): boolean =>
          tile > 0 &&
          [grid[r]![c], grid[r + 1]![c], grid[r]![c + 1], grid[r + 1]![c + 1]].every(
            (p) => p !== undefined,
          );
        for (let c = 0, end = 0; c < columns; c = end) {
          end = c + 1;
          if (done[c]) continue;
          if (!seenAll(c)) {
            blank(a + c * NODE, Math.min(right, a + end * NODE), from, to);
            continue;
          }
          while (end < columns && !done[end] && seenAll(end)) end++;
          for (let i = c; i <= end; i++)
            for (let q = 0; q < 3; q++) {
              along[(i - c) * 4 + q] = grid[r]![i]![q]!;
              along[lows + (i - c) * 4 + q] = grid[r + 1]![i]![q]!;
            }
          for (let i = c; i < end; i++) along[(i - c) * 4 + 3] = sharp[r]![i] ? 0 : 1;
          heap.k.warpRows(
            tile,
            source.left,
            source.top,
            source.width,
            camera.width,
            camera.height,
            nodes,
            nodes + lows * 4,
            NODE,
            Math.min(right, a + end * NODE) - a - c * NODE,
            to - from,
            to - from,
            gains,
            planes[0]! + from * line + (a + c * NODE) * 4,
            line,
            apart,
          );
        }
      }
      heap.release(inner);
    }
  heap.release(outer);
}
/**
 * Samples of a tile at most: where a projection squeezes the frame so hard there is nothing to be
 * seen.
 */
const TILE_MOST = 3e6;
/** Bytes of scratch for warping a frame of a sample type. */
export const warpScratch = (type: ReducedFrame["type"]): number =>
  TILE_MOST * 16 + (type === "u16" ? 65536 * 12 : 4096) + (1 << 18);
