import type { Heap } from "../../kernels/heap";
import { linearTile, type Accumulator } from "../bracket/foldFrame";
import { collapse, differences, pyramidShape, reduceAll, type PyramidShape } from "../raster/pyramid";
import type { ReducedFrame } from "../align/logPyramid";
import { seen, type Camera } from "./camera";
import { falloff, type Light } from "./light";
import { directionAt, type Canvas } from "./projection";

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

/** The part of a stripe that a frame covers, or nothing. */
export function pieceOf(camera: Camera, canvas: Canvas, s: Pick<Stripe, "x" | "y" | "width" | "height">): Piece | undefined {
  let x0 = Infinity, x1 = -1, y0 = Infinity, y1 = -1;
  for (let y = 0; y < s.height + NODE; y += NODE) for (let x = 0; x < s.width + NODE; x += NODE) {
    const d = directionAt(canvas, s.x + Math.min(x, s.width) , s.y + Math.min(y, s.height)), p = d && seen(camera, d);
    if (!p || p[0] < -NODE || p[1] < -NODE || p[0] > camera.width + NODE || p[1] > camera.height + NODE) continue;
    x0 = Math.min(x0, x); x1 = Math.max(x1, x); y0 = Math.min(y0, y); y1 = Math.max(y1, y);
  }
  if (x1 < 0) return undefined;
  const unit = 2 ** LEVELS, left = Math.max(0, Math.floor((x0 - NODE) / unit) * unit), top = Math.max(0, Math.floor((y0 - NODE) / unit) * unit);
  return { x: left, y: top, width: Math.min(s.width, Math.ceil((x1 + 2 * NODE) / unit) * unit) - left, height: Math.min(s.height, Math.ceil((y1 + 2 * NODE) / unit) * unit) - top };
}

export interface WarpInput {
  frame: ReducedFrame; /** at the scale of the samples */ camera: Camera; canvas: Canvas; light: Light; /** place of the frame */ place: number;
  stripe: Pick<Stripe, "x" | "y" | "width" | "height">; piece: Piece;
  /** planes R, G, B as square roots of evened light, and the mask, of the piece's size */ planes: number[];
  /** the seams' map at this address */ labels: { ptr: number; width: number; height: number };
}

/** Lays rows y0 to y1 of a frame's piece on the canvas. Beyond the frame its edge goes on, so that no dark is blended in. */
export function warpPiece(heap: Heap, { frame, camera, canvas, light, place, stripe, piece, planes, labels }: WarpInput, y0: number, y1: number): void {
  const outer = heap.mark(), lut = heap.put(frame.lut), { width: w } = piece, xs = heap.alloc(NODE * 4 + 16), ys = heap.alloc(NODE * 4 + 16), row = heap.alloc(NODE * 16 + 64);
  const X = heap.f32(xs, NODE), Y = heap.f32(ys, NODE), px = heap.f32(row, NODE * 4), out = planes.map((p) => heap.f32(p, w * piece.height)) as [Float32Array, Float32Array, Float32Array, Float32Array], map = heap.u8(labels.ptr, labels.width * labels.height);
  const gains = light.gains[place]!, perX = labels.width / canvas.width, perY = labels.height / canvas.height, TILES = 16;
  const node = (x: number, y: number): [number, number] | undefined => { const d = directionAt(canvas, stripe.x + piece.x + x, stripe.y + piece.y + y); return d && seen(camera, d); };
  // of the seams' map, how far a place lies with this frame: smooth between the cells' middles
  const owned = (x: number, y: number): number => {
    let u = (stripe.x + piece.x + x + 0.5) * perX - 0.5;
    const v = Math.max(0, Math.min(labels.height - 1, (stripe.y + piece.y + y + 0.5) * perY - 0.5)), j = Math.floor(v), fy = v - j, k = Math.min(labels.height - 1, j + 1);
    const i = Math.floor(u), fx = u - i, col = (c: number): number => (canvas.closed ? ((c % labels.width) + labels.width) % labels.width : Math.max(0, Math.min(labels.width - 1, c))), is = (c: number, r: number): number => (map[r * labels.width + col(c)] === place + 1 ? 1 : 0);
    u = (is(i, j) * (1 - fx) + is(i + 1, j) * fx) * (1 - fy) + (is(i, k) * (1 - fx) + is(i + 1, k) * fx) * fy;
    return u;
  };
  for (let b = y0; b < y1; b += NODE) for (let a = 0; a < w; a += NODE * TILES) {
    const bottom = Math.min(y1, b + NODE), right = Math.min(w, a + NODE * TILES), columns = Math.ceil((right - a) / NODE), inner = heap.mark();
    const tops = Array.from({ length: columns + 1 }, (_, i) => node(a + i * NODE, b)), lows = Array.from({ length: columns + 1 }, (_, i) => node(a + i * NODE, b + NODE));
    const clampX = (v: number): number => Math.max(-2, Math.min(camera.width + 2, v)), clampY = (v: number): number => Math.max(-2, Math.min(camera.height + 2, v));
    const known = [...tops, ...lows].filter((p): p is [number, number] => p !== undefined);
    const blank = (x0: number, x1: number): void => { for (let y = b; y < bottom; y++) for (const p of out) p.fill(0, y * w + x0, y * w + x1); };
    if (!known.length) { blank(a, right); continue; }
    const left = Math.max(-3, Math.floor(clampX(Math.min(...known.map((p) => p[0])))) - 4), top = Math.max(-3, Math.floor(clampY(Math.min(...known.map((p) => p[1])))) - 4);
    const source = { left, top, width: Math.min(camera.width + 3, Math.ceil(clampX(Math.max(...known.map((p) => p[0])))) + 4) - left, height: Math.min(camera.height + 3, Math.ceil(clampY(Math.max(...known.map((p) => p[1])))) + 4) - top };
    const tile = source.width * source.height < TILE_MOST ? linearTile(heap, { samples: frame.ptr, type: frame.type, width: frame.width, height: frame.height }, source, lut) : 0;
    for (let c = 0; c < columns; c++) {
      const [p, q, r, s] = [tops[c], tops[c + 1], lows[c], lows[c + 1]], x0 = a + c * NODE, n = Math.min(NODE, right - x0);
      if (!tile || !p || !q || !r || !s) { blank(x0, x0 + n); continue; }
      for (let y = b; y < bottom; y++) {
        const t = (y + 0.5 - b) / NODE, ax = p[0] + (r[0] - p[0]) * t, ay = p[1] + (r[1] - p[1]) * t, bx = q[0] + (s[0] - q[0]) * t, by = q[1] + (s[1] - q[1]) * t;
        for (let i = 0; i < n; i++) { const u = (i + 0.5) / NODE; X[i] = ax + (bx - ax) * u; Y[i] = ay + (by - ay) * u; }
        heap.k.resampleAt(tile, source.left, source.top, source.width, camera.width, camera.height, xs, ys, n, row);
        const shade = 1 / falloff(light, camera, X[n >> 1]!, Y[n >> 1]!);
        for (let i = 0, k = y * w + x0; i < n; i++, k++) {
          out[0][k] = Math.sqrt(px[i * 4]! * gains[0] * shade); out[1][k] = Math.sqrt(px[i * 4 + 1]! * gains[1] * shade); out[2][k] = Math.sqrt(px[i * 4 + 2]! * gains[2] * shade);
          out[3][k] = px[i * 4 + 3]! > 0 ? owned(x0 + i, y) : 0;
        }
      }
    }
    heap.release(inner);
  }
  heap.release(outer);
}
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

/** Adds up one channel of a stripe and lays its columns x0 to x1 into the scene, as light; with the weights for channel 3. */
export function finishChannel(heap: Heap, stripe: Stripe, channel: number, acc: Accumulator, x0: number, x1: number): void {
  const shape = stripeShape(stripe), sum = stripe.sums[channel]!, weight = stripe.sums[3];
  const to = heap.f32(acc.ptr + channel * acc.planeBytes, acc.width * acc.height), from = heap.f32(sum, stripe.width * stripe.height), covered = heap.f32(weight, stripe.width * stripe.height);
  if (channel < 3) {
    for (const l of shape.levels) heap.k.divideBy(sum + l.at, weight + l.at, l.w * l.h);
    collapse(heap, sum, shape);
  }
  for (let y = 0; y < stripe.height; y++) for (let x = x0; x < x1; x++) {
    const k = y * stripe.width + x - stripe.x, i = (y + stripe.y) * acc.width + x, v = from[k]!;
    to[i] = channel === 3 ? (covered[k]! > 1e-3 ? 1 : 0) : covered[k]! > 1e-3 ? Math.max(0, v) ** 2 : 0;
  }
}
