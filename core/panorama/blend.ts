import type { Heap } from "../../kernels/heap";
import type { Accumulator } from "../bracket/foldFrame";
import { linearTile } from "../raster/sampleTile";
import { collapse, differences, pyramidShape, reduceAll, type PyramidShape } from "../raster/pyramid";
import type { ReducedFrame } from "../align/logPyramid";
import { drawnIn, seen, type Camera } from "./camera";
import { falloff, type Light } from "./light";
import { directionAt, type Canvas } from "./projection";
import type { Labels } from "./seams";

/** Levels over which frames are blended: the coarsest spreads a difference over about a hundred px. */
export const LEVELS = 6;
/** What a stripe needs beside itself to come out as in the whole, px. */
export const MARGIN = 2 ** LEVELS * 4;

/** A part of the canvas that is blended at once, and its sums: a pyramid a channel and one of weights, all of one shape. */
export interface Stripe { x: number; y: number; width: number; height: number; /** R, G, B, weight */ sums: [number, number, number, number] }
/** A frame's part of a stripe, px of the stripe; the corner lies on multiples of 2 ^ LEVELS. */
export interface Piece { x: number; y: number; width: number; height: number }
export const stripeShape = ({ width, height }: Pick<Stripe, "width" | "height">): PyramidShape => pyramidShape(width, height, LEVELS);

/** Distance of the places at which the way from canvas to frame is computed exactly; between them it is a line. */
const NODE = 16;

/**
 * The part of a stripe that a frame has something to give to, or nothing: what it covers, and of that its own share by the
 * seams and as much round it as blending reaches.
 */
export function pieceOf(camera: Camera, canvas: Canvas, s: Pick<Stripe, "x" | "y" | "width" | "height">, labels: Pick<Labels, "width" | "height" | "of">, place: number): Piece | undefined {
  let x0 = Infinity, x1 = -1, y0 = Infinity, y1 = -1;
  for (let y = 0; y < s.height + NODE; y += NODE) for (let x = 0; x < s.width + NODE; x += NODE) {
    const d = directionAt(canvas, s.x + Math.min(x, s.width) , s.y + Math.min(y, s.height)), p = d && seen(camera, d);
    if (!p || p[0] < -NODE || p[1] < -NODE || p[0] > camera.width + NODE || p[1] > camera.height + NODE) continue;
    x0 = Math.min(x0, x); x1 = Math.max(x1, x); y0 = Math.min(y0, y); y1 = Math.max(y1, y);
  }
  const own = x1 < 0 ? undefined : ownPart(canvas, s, labels, place);
  if (!own) return undefined;
  x0 = Math.max(x0, own.x0 - MARGIN); x1 = Math.min(x1, own.x1 + MARGIN); y0 = Math.max(y0, own.y0 - MARGIN); y1 = Math.min(y1, own.y1 + MARGIN);
  if (x1 <= x0 || y1 <= y0) return undefined;
  const unit = 2 ** LEVELS, left = Math.max(0, Math.floor((x0 - NODE) / unit) * unit), top = Math.max(0, Math.floor((y0 - NODE) / unit) * unit);
  return { x: left, y: top, width: Math.min(s.width, Math.ceil((x1 + 2 * NODE) / unit) * unit) - left, height: Math.min(s.height, Math.ceil((y1 + 2 * NODE) / unit) * unit) - top };
}

/** Bounds, in px of a stripe, of what the seams give to a frame there. */
function ownPart(canvas: Canvas, s: Pick<Stripe, "x" | "y" | "width" | "height">, { width, height, of }: Pick<Labels, "width" | "height" | "of">, place: number): { x0: number; x1: number; y0: number; y1: number } | undefined {
  const sx = canvas.width / width, sy = canvas.height / height, first = Math.floor(s.x / sx) - 1, last = Math.ceil((s.x + s.width) / sx) + 1;
  let x0 = Infinity, x1 = -1, y0 = Infinity, y1 = -1;
  for (let c = first; c <= last; c++) {
    const col = columnOf(c, width, canvas.closed);
    for (let r = 0; r < height; r++) if (of[r * width + col] === place + 1) { x0 = Math.min(x0, (c - 1) * sx - s.x); x1 = Math.max(x1, (c + 2) * sx - s.x); y0 = Math.min(y0, (r - 1) * sy - s.y); y1 = Math.max(y1, (r + 2) * sy - s.y); }
  }
  return x1 < 0 ? undefined : { x0, x1, y0, y1 };
}
const columnOf = (c: number, width: number, closed: boolean): number => (closed ? ((c % width) + width) % width : Math.max(0, Math.min(width - 1, c)));

export interface WarpInput {
  frame: ReducedFrame; /** at the scale of the samples */ camera: Camera; canvas: Canvas; light: Light; /** place of the frame */ place: number;
  stripe: Pick<Stripe, "x" | "y" | "width" | "height">; piece: Piece;
  /** planes R, G, B as square roots of evened light, and the mask, of the piece's size and evenly apart */ planes: number[];
  /** the seams' map at this address */ labels: { ptr: number; width: number; height: number };
}

/** Lays rows y0 to y1 of a frame's piece on the canvas. Beyond the frame and its image circle its edge goes on, so that no dark is blended in. */
export function warpPiece(heap: Heap, { frame, camera, canvas, light, place, stripe, piece, planes, labels }: WarpInput, y0: number, y1: number): void {
  const outer = heap.mark(), lut = heap.putTables(frame.lut, frame.type), gains = heap.put(light.gains[place]!), { width: w } = piece, TILES = 16;
  const perX = labels.width / canvas.width, perY = labels.height / canvas.height, map = heap.u8(labels.ptr, labels.width * labels.height), cells = Math.ceil(NODE * TILES * perX) + 4;
  const nodes = heap.alloc((TILES + 1) * 16), shares = heap.alloc(cells * 4 + 16), along = heap.f32(nodes, (TILES + 1) * 4), owned = heap.f32(shares, cells);
  // what lies far beside the frame is only to lie beside it: there the numbers would grow beyond all bounds
  const near = (v: number, size: number, by: number): number => Math.max(-by * size, Math.min((1 + by) * size, v));
  const node = (x: number, y: number): Node | undefined => { const d = directionAt(canvas, stripe.x + piece.x + x, stripe.y + piece.y + y), q = d && seen(camera, d), p = q && drawnIn(camera, q); return p && [near(p[0], camera.width, 9), near(p[1], camera.height, 9), 1 / falloff(light, camera, near(p[0], camera.width, 0.1), near(p[1], camera.height, 0.1))]; };
  for (let b = y0; b < y1; b += NODE) for (let a = 0; a < w; a += NODE * TILES) {
    const bottom = Math.min(y1, b + NODE), right = Math.min(w, a + NODE * TILES), columns = Math.ceil((right - a) / NODE), inner = heap.mark();
    const tops = Array.from({ length: columns + 1 }, (_, i) => node(a + i * NODE, b)), lows = Array.from({ length: columns + 1 }, (_, i) => node(a + i * NODE, bottom));
    const clampX = (v: number): number => Math.max(-2, Math.min(camera.width + 2, v)), clampY = (v: number): number => Math.max(-2, Math.min(camera.height + 2, v));
    const known = [...tops, ...lows].filter((p): p is Node => p !== undefined);
    const blank = (x0: number, x1: number): void => { for (let y = b; y < bottom; y++) for (const p of planes) heap.f32(p + (y * w + x0) * 4, x1 - x0).fill(0); };
    if (!known.length) { blank(a, right); continue; }
    const left = Math.max(-3, Math.floor(clampX(Math.min(...known.map((p) => p[0])))) - 4), top = Math.max(-3, Math.floor(clampY(Math.min(...known.map((p) => p[1])))) - 4);
    const source = { left, top, width: Math.min(camera.width + 3, Math.ceil(clampX(Math.max(...known.map((p) => p[0])))) + 4) - left, height: Math.min(camera.height + 3, Math.ceil(clampY(Math.max(...known.map((p) => p[1])))) + 4) - top };
    const tile = source.width * source.height < TILE_MOST ? linearTile(heap, { samples: frame.ptr, type: frame.type, width: frame.width, height: frame.height }, source, lut) : 0;
    // of the seams' map, how far a place lies with this frame: smooth between the cells' middles
    const u0 = (stripe.x + piece.x + a + 0.5) * perX - 0.5, cell = Math.floor(u0);
    for (let c = 0; c < columns;) {
      let end = c;
      while (end < columns && tile && tops[end] && lows[end] && tops[end + 1] && lows[end + 1]) end++;
      if (end === c) { blank(a + c * NODE, Math.min(right, a + ++c * NODE)); continue; }
      const x0 = a + c * NODE, n = Math.min(right, a + end * NODE) - x0;
      for (let y = b; y < bottom; y++) {
        const t = (y + 0.5 - b) / (bottom - b), v = Math.max(0, Math.min(labels.height - 1, (stripe.y + piece.y + y + 0.5) * perY - 0.5)), j = Math.floor(v), fy = v - j, k = Math.min(labels.height - 1, j + 1);
        for (let i = c; i <= end; i++) for (let q = 0; q < 3; q++) along[(i - c) * 4 + q] = tops[i]![q]! + (lows[i]![q]! - tops[i]![q]!) * t;
        for (let i = 0; i < cells; i++) { const col = columnOf(cell + i, labels.width, canvas.closed); owned[i] = (map[j * labels.width + col] === place + 1 ? 1 - fy : 0) + (map[k * labels.width + col] === place + 1 ? fy : 0); }
        heap.k.warpRow(tile, source.left, source.top, source.width, camera.width, camera.height, nodes, NODE, n, gains, shares, u0 - cell + c * NODE * perX, perX, planes[0]! + (y * w + x0) * 4, planes[1]! - planes[0]!);
      }
      c = end;
    }
    heap.release(inner);
  }
  heap.release(outer);
}
/** x, y in px of a frame, and a factor on its light. */
type Node = [number, number, number];
/** Samples of a tile at most: where a projection squeezes the frame so hard there is nothing to be seen. */
const TILE_MOST = 3e6;
export const warpScratch = (type: ReducedFrame["type"]): number => TILE_MOST * 16 + (type === "u16" ? 65536 * 12 : 4096) + (1 << 18);

/** Adds one plane of a piece to the stripe's sums: a channel under the pyramid of its mask, or the mask itself. */
export function addPiece(heap: Heap, piece: Piece, plane: number, mask: number | undefined, stripe: Stripe, sum: number): void {
  const outer = heap.mark(), shape = pyramidShape(piece.width, piece.height, LEVELS), whole = stripeShape(stripe), n = piece.width * piece.height;
  const own = heap.alloc(shape.bytes);
  heap.f32(own, n).set(heap.f32(plane, n));
  reduceAll(heap, own, shape);
  if (mask !== undefined) differences(heap, own, shape);
  shape.levels.forEach((l, i) => {
    const to = whole.levels[i]!, x = piece.x >> i, y = piece.y >> i, cols = Math.min(l.w, to.w - x), rows = Math.min(l.h, to.h - y);
    for (let r = 0; r < rows; r++) {
      const at = own + l.at + r * l.w * 4, dst = sum + to.at + ((y + r) * to.w + x) * 4, four = cols & ~3;
      // the kernels work in fours, and the rest of the row is somebody else's
      if (mask !== undefined) heap.k.addProduct(at, mask + l.at + r * l.w * 4, four, dst); else heap.k.addPlane(at, four, dst);
      const A = heap.f32(at, cols), D = heap.f32(dst, cols), M = mask === undefined ? undefined : heap.f32(mask + l.at + r * l.w * 4, cols);
      for (let c = four; c < cols; c++) D[c]! += A[c]! * (M ? M[c]! : 1);
    }
  });
  heap.release(outer);
}

/** The pyramid of a piece's mask, at `to`. */
export function maskPyramid(heap: Heap, piece: Piece, plane: number, to: number): void {
  const shape = pyramidShape(piece.width, piece.height, LEVELS), n = piece.width * piece.height;
  heap.f32(to, n).set(heap.f32(plane, n));
  reduceAll(heap, to, shape);
}
export const pieceScratch = (piece: Piece): number => pyramidShape(piece.width, piece.height, LEVELS).bytes + piece.width * 8 + (1 << 14);

/** Adds up one channel of a stripe and lays its columns x0 to x1 into the scene, whose first row is the canvas's row `top`, as light; with the weights for channel 3. */
export function finishChannel(heap: Heap, stripe: Stripe, channel: number, acc: Accumulator, top: number, x0: number, x1: number): void {
  const shape = stripeShape(stripe), sum = stripe.sums[channel]!, weight = stripe.sums[3];
  if (channel < 3) {
    for (const l of shape.levels) heap.k.divideBy(sum + l.at, weight + l.at, l.w * l.h);
    collapse(heap, sum, shape);
  }
  for (let y = 0; y < acc.height; y++) {
    const k = ((y + top - stripe.y) * stripe.width + x0 - stripe.x) * 4;
    heap.k.coveredSquares(channel < 3 ? sum + k : 0, weight + k, x1 - x0, acc.ptr + channel * acc.planeBytes + (y * acc.width + x0) * 4);
  }
}
