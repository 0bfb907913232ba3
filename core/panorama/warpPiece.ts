import type { Heap } from "../../kernels/heap";
import type { ReducedFrame } from "../align/logPyramid";
import { linearTile } from "../raster/sampleTile";
import { columnOf, type Bounds, type Piece } from "./blend";
import { drawnIn, seen, type Camera } from "./camera";
import { falloff, type Light } from "./light";
import { directionAt, type Canvas } from "./projection";

export interface WarpInput {
  frame: ReducedFrame; /** at the scale of the samples */ camera: Camera; canvas: Canvas; light: Light; /** place of the frame */ place: number;
  bounds: Bounds; piece: Piece;
  /** planes R, G, B as square roots of evened light, and the mask, of the piece's size and evenly apart */ planes: number[];
  /** the seams' map at this address */ labels: { ptr: number; width: number; height: number };
}

/** Distance of the places at which the way from canvas to frame is computed exactly; between them it is a line. */
const NODE = 16;
/** Nodes of a block that is laid at once: tall, as a wide projection bends the frame's rows. */
const ACROSS = 8, DOWN = 4;
/** Rows from multiples of this on come out the same in whatever strips they are laid. */
export const BLOCK_ROWS = NODE * DOWN;

/** x, y in px of a frame, and a factor on its light. */
type Node = readonly [number, number, number];
/** Nodes of a block, row by row; undefined where the frame is not seen. */
type Grid = readonly (readonly (Node | undefined)[])[];

/** A frame reaches so far round a column that is laid at once, px; the column leans by no more, and takes no more of the frame's rows for one of its own. */
const AROUND = 5, LEAN = 0.2, DENSE = 2;

/** Whether a column of nodes' cells lies in the frame nearly upright: it may be sampled across and then down. */
function isUpright(grid: Grid, c: number, { width, height }: Camera): boolean {
  return grid.every((row, r) => [row[c], row[c + 1]].every((p, side) => {
    if (!p || p[0] < AROUND || p[1] < AROUND || p[0] > width - AROUND || p[1] > height - AROUND) return false;
    const before = r ? grid[r - 1]![c + side] : undefined;
    if (!before) return r === 0;
    const down = p[1] - before[1];
    return down > 0 && down < DENSE * NODE && Math.abs(p[0] - before[0]) < LEAN * down;
  }));
}

/** Lays rows y0 to y1 of a frame's piece on the canvas. Beyond the frame and its image circle its edge goes on, so that no dark is blended in. */
export function warpPiece(heap: Heap, { frame, camera, canvas, light, place, bounds, piece, planes, labels }: WarpInput, y0: number, y1: number): void {
  const outer = heap.mark(), lut = heap.putTables(frame.lut, frame.type), gains = heap.put(light.gains[place]!), { width: w } = piece, originX = bounds.x + piece.x, originY = bounds.y + piece.y;
  const perX = labels.width / canvas.width, perY = labels.height / canvas.height, map = heap.u8(labels.ptr, labels.width * labels.height), cells = Math.ceil(NODE * ACROSS * perX) + 4;
  const nodes = heap.alloc(Math.max(ACROSS + 1, 2 * (DOWN + 1)) * 16), shares = heap.alloc(cells * 4 + 16), along = heap.f32(nodes, Math.max(ACROSS + 1, 2 * (DOWN + 1)) * 4), owned = heap.f32(shares, cells), above = new Float32Array(cells), below = new Float32Array(cells);
  // what lies far beside the frame is only to lie beside it: there the numbers would grow beyond all bounds
  const near = (v: number, size: number, by: number): number => Math.max(-by * size, Math.min((1 + by) * size, v));
  const node = (x: number, y: number): Node | undefined => { const d = directionAt(canvas, originX + x, originY + y), q = d && seen(camera, d), p = q && drawnIn(camera, q); return p && [near(p[0], camera.width, 9), near(p[1], camera.height, 9), 1 / falloff(light, camera, near(p[0], camera.width, 0.1), near(p[1], camera.height, 0.1))]; };
  const clampX = (v: number): number => Math.max(-2, Math.min(camera.width + 2, v)), clampY = (v: number): number => Math.max(-2, Math.min(camera.height + 2, v));
  /** whether a cell of the seams' map is this frame's */
  const isOwn = (row: number, column: number): boolean => map[row * labels.width + columnOf(column, labels.width, canvas.closed)] === place + 1;
  /** the frame's share of cells in a row of the map, from one on */
  const sharesOf = (row: number, cell: number, to: Float32Array): void => { for (let i = 0; i < cells; i++) to[i] = isOwn(row, cell + i) ? 1 : 0; };
  /** whether the frame has a share of what lies from one px of the canvas to another */
  const own = (x0: number, x1: number, top: number, low: number): boolean => {
    for (let r = Math.max(0, Math.floor(top * perY - 0.5)); r <= Math.min(labels.height - 1, Math.ceil(low * perY - 0.5)); r++) for (let c = Math.floor(x0 * perX - 0.5); c <= Math.ceil(x1 * perX - 0.5); c++) if (isOwn(r, c)) return true;
    return false;
  };
  for (let a = 0; a < w; a += NODE * ACROSS) for (let b = y0, next: (Node | undefined)[] = []; b < y1; b += NODE * DOWN) {
    const bottom = Math.min(y1, b + NODE * DOWN), right = Math.min(w, a + NODE * ACROSS), columns = Math.ceil((right - a) / NODE), inner = heap.mark(), rows = Math.ceil((bottom - b) / NODE);
    const grid = Array.from({ length: rows + 1 }, (_, r) => (r || b === y0 ? Array.from({ length: columns + 1 }, (_n, i) => node(a + i * NODE, Math.min(bottom, b + r * NODE))) : next));
    next = grid[rows]!;
    const known = grid.flat().filter((p): p is Node => p !== undefined);
    const blank = (x0: number, x1: number, from: number, to: number): void => { for (let y = from; y < to; y++) for (const p of planes) heap.k.zero(p + (y * w + x0) * 4, (x1 - x0) * 4); };
    if (!known.length) { blank(a, right, b, bottom); continue; }
    const left = Math.max(-3, Math.floor(clampX(Math.min(...known.map((p) => p[0])))) - 4), top = Math.max(-3, Math.floor(clampY(Math.min(...known.map((p) => p[1])))) - 4);
    const source = { left, top, width: Math.min(camera.width + 3, Math.ceil(clampX(Math.max(...known.map((p) => p[0])))) + 4) - left, height: Math.min(camera.height + 3, Math.ceil(clampY(Math.max(...known.map((p) => p[1])))) + 4) - top };
    const tile = source.width * source.height < TILE_MOST ? linearTile(heap, { samples: frame.ptr, type: frame.type, width: frame.width, height: frame.height }, source, lut) : 0;
    // of the seams' map, how far a place lies with this frame: smooth between the cells' middles
    const u0 = (originX + a + 0.5) * perX - 0.5, cell = Math.floor(u0);
    /** whether the frame has a share of a cell of the grid, or of one next to it */
    const wanted = (c: number, r: number): boolean => own(originX + a + (c - 1) * NODE, originX + a + (c + 2) * NODE, originY + b + (r - 1) * NODE, originY + b + (r + 2) * NODE);
    const sharp = Array.from({ length: rows }, (_, r) => Array.from({ length: columns }, (_n, c) => wanted(c, r)));
    const laid = Array.from({ length: columns }, (_, c) => tile > 0 && sharp.some((row) => row[c]) && isUpright(grid, c, camera));
    const column = heap.alloc((source.height + 8) * 64);
    for (let c = 0; c < columns; c++) if (laid[c]) {
      grid.forEach((row, r) => { for (let side = 0; side < 2; side++) for (let q = 0; q < 3; q++) along[r * 8 + side * 4 + q] = row[c + side]![q]!; });
      heap.k.warpColumn(tile, source.left, source.top, source.width, source.height, nodes, NODE, Math.min(NODE, right - a - c * NODE), bottom - b, gains, column, planes[0]! + (b * w + a + c * NODE) * 4, w * 4, planes[1]! - planes[0]!);
    }
    let held = -1, same = false;
    for (let r = 0; r < rows; r++) {
      const tops = grid[r]!, lows = grid[r + 1]!, from = b + r * NODE, to = Math.min(bottom, from + NODE);
      for (let c = 0; c < columns;) {
        let end = c;
        const whole = laid[c]!;
        while (end < columns && laid[end] === whole && tile && tops[end] && lows[end] && tops[end + 1] && lows[end + 1]) end++;
        if (end === c) { blank(a + c * NODE, Math.min(right, a + ++c * NODE), from, to); continue; }
        const x0 = a + c * NODE, n = Math.min(right, a + end * NODE) - x0;
        for (let i = c; i < end; i++) along[(i - c) * 4 + 3] = sharp[r]![i] ? 0 : 1;
        for (let y = from; y < to; y++) {
          const t = (y + 0.5 - from) / (to - from), v = Math.max(0, Math.min(labels.height - 1, (originY + y + 0.5) * perY - 0.5)), j = Math.floor(v), fy = v - j;
          if (!whole) for (let i = c, o = 0; i <= end; i++, o += 4) { const p = tops[i]!, q = lows[i]!; along[o] = p[0] + (q[0] - p[0]) * t; along[o + 1] = p[1] + (q[1] - p[1]) * t; along[o + 2] = p[2] + (q[2] - p[2]) * t; }
          if (held !== j) {
            sharesOf(j, cell, above); sharesOf(Math.min(labels.height - 1, j + 1), cell, below);
            held = j; same = above.every((share, i) => share === below[i]);
            if (same) owned.set(above);
          }
          if (!same) for (let i = 0; i < cells; i++) owned[i] = above[i]! * (1 - fy) + below[i]! * fy;
          const first = u0 - cell + c * NODE * perX, dst = planes[0]! + (y * w + x0) * 4, apart = planes[1]! - planes[0]!;
          if (whole) heap.k.shareRow(shares, first, perX, n, dst + 3 * apart); else heap.k.warpRow(tile, source.left, source.top, source.width, camera.width, camera.height, nodes, NODE, n, gains, shares, first, perX, dst, apart);
        }
        c = end;
      }
    }
    heap.release(inner);
  }
  heap.release(outer);
}
/** Samples of a tile at most: where a projection squeezes the frame so hard there is nothing to be seen. */
const TILE_MOST = 3e6;
export const warpScratch = (type: ReducedFrame["type"]): number => TILE_MOST * 16 + (type === "u16" ? 65536 * 12 : 4096) + (1 << 18);

