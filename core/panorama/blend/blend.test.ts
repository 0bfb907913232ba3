import { Heap } from "../../../kernels/heap";
import { random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import {
  addPiece,
  collapseCoarser,
  coarserOf,
  columnOf,
  finishRows,
  BLEND_MARGIN,
  pieceShape,
  piecesOf,
  reducePiece,
  PYRAMID_UNIT,
  type Bounds,
  type Piece,
  type Sums,
} from "./blend";
import { seen, type Camera } from "../camera";
import { canvasFor, directionAt } from "../canvas/projection";

const camera = (yaw: number): Camera => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 900,
  distortion: [0, 0, 0],
  width: 1200,
  height: 800,
});
const two = [camera(-18), camera(18)];
const canvas = canvasFor(two, { projection: "cylindrical", most: 1e9 });
const bounds: Bounds = { x: 0, y: 0, width: canvas.width, height: canvas.height };
/** The left half of the map to the first frame, the right half to the second. */
const halves = {
  width: 90,
  height: 40,
  of: Uint8Array.from({ length: 90 * 40 }, (_, i) => (i % 90 < 45 ? 1 : 2)),
};

test.each([0, 1])(
  "the pieces of frame %i hold all that the seams give it, each column once, on places that pyramids share",
  (place) => {
    const pieces = piecesOf(two[place]!, canvas, bounds, halves, place);
    const owner = (x: number): number =>
      halves.of[Math.min(89, Math.floor((x * 90) / canvas.width))]! - 1;
    for (const p of pieces) {
      for (const v of [p.x, p.y, p.from]) expect(v % PYRAMID_UNIT).toBe(0);
      expect(p.x <= p.from && p.from < p.to && p.to <= p.x + p.width).toBe(true);
      // as much beside what is added as blending reaches, or the piece of a frame ends there
      expect(p.x === Math.min(...pieces.map((q) => q.x)) || p.from - p.x >= BLEND_MARGIN).toBe(
        true,
      );
    }
    for (let y = 5; y < canvas.height; y += 37)
      for (let x = 5; x < canvas.width; x += 23) {
        const d = directionAt(canvas, x, y);
        const p = d && seen(two[place]!, d);
        const inside = p && p[0] > 0 && p[1] > 0 && p[0] < 1200 && p[1] < 800;
        const holding = pieces.filter(
          (q) => x >= q.from && x < q.to && y >= q.y && y < q.y + q.height,
        );
        expect(holding.length).toBeLessThanOrEqual(1);
        if (inside && owner(x) === place) expect(holding.length).toBe(1);
      }
  },
);

test("a frame that the seams give nothing to has no pieces, and a small frame in a large picture is not cut", () => {
  expect(piecesOf(two[0]!, canvas, bounds, { ...halves, of: halves.of.map(() => 2) }, 0)).toEqual(
    [],
  );
  expect(
    piecesOf(two[0]!, canvas, bounds, { ...halves, of: halves.of.map(() => 1) }, 0),
  ).toHaveLength(1);
});

test("columns go round where a picture is a full turn, and stop at its sides where it is not", () => {
  expect([-1, 0, 89, 90, 200].map((c) => columnOf(c, 90, true))).toEqual([89, 0, 89, 0, 20]);
  expect([-1, 0, 89, 90, 200].map((c) => columnOf(c, 90, false))).toEqual([0, 0, 89, 89, 89]);
});

const W = 512;
const H = 192;
const n = W * H;
/**
 * Two pieces over the whole bounds, each light of its own with a mask that takes turns at the
 * middle, added in rows cut as given.
 */
function blended(
  light: [(i: number) => number, (i: number) => number],
  cuts: number[],
  matrix = [1, 0, 0, 0, 1, 0, 0, 0, 1],
): Float32Array[] {
  const heap = Heap.local(40e6);
  const box: Bounds = { x: 0, y: 0, width: W, height: H };
  const planeBytes = n * 4 + 64;
  const finest = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: W, height: H };
  const below = coarserOf(box).bytes;
  const coarse = heap.alloc(below * 4 + 64);
  const sums: Sums = { bounds: box, finest, coarser: [0, 1, 2, 3].map((c) => coarse + c * below) };
  const piece: Piece = { ...box, from: 0, to: W };
  const own = pieceShape(piece).bytes;
  const rows = cuts.slice(1).map((y1, k) => [cuts[k]!, y1] as const);
  heap.k.zero(finest.ptr, planeBytes * 4);
  heap.k.zero(coarse, below * 4);
  light.forEach((value, k) => {
    const planes = [0, 1, 2, 3].map(() => heap.alloc(own));
    for (const at of planes) heap.k.zero(at, own);
    planes.forEach((at, c) => {
      const p = heap.f32(at, n);
      for (let i = 0; i < n; i++)
        p[i] = c === 3 ? (i % W < W / 2 === (k === 0) ? 1 : 0) : Math.sqrt(value(i));
    });
    for (const at of planes) reducePiece(heap, piece, at);
    for (const [a, b] of rows) addPiece(heap, piece, planes, sums, a, b);
  });
  for (const c of [0, 1, 2]) collapseCoarser(heap, sums, c);
  for (const [a, b] of rows) finishRows(heap, sums, matrix, a, b);
  return [0, 1, 2, 3].map((c) => heap.f32(finest.ptr + c * planeBytes, n).slice());
}

test("two even halves pass into each other without a step and without leaving the range between them", () => {
  const [red, , , covered] = blended([() => 0.25, () => 0.5], [0, H]);
  expect(covered!.every((v) => v === 1)).toBe(true);
  for (const y of [0, 96, 191])
    for (let x = 1; x < W; x++) {
      const v = red![y * W + x]!;
      const step = v - red![y * W + x - 1]!;
      expect(v > 0.249 && v < 0.501).toBe(true);
      expect(Math.abs(step)).toBeLessThan(0.01);
    }
  expect(red![96 * W + 20]).toBeCloseTo(0.25, 3);
  expect(red![96 * W + W - 20]).toBeCloseTo(0.5, 3);
});

test("what both show alike comes out as it is, detail and all", () => {
  const rnd = random(3);
  const scene = Float32Array.from({ length: n }, () => 0.05 + 0.9 * rnd());
  const [red] = blended([(i) => scene[i]!, (i) => scene[i]!], [0, H]);
  let worst = 0;
  for (let i = 0; i < n; i++) worst = Math.max(worst, Math.abs(red![i]! - scene[i]!));
  expect(worst).toBeLessThan(1e-4);
});

test("the same bytes however the rows are cut, and the colours are turned at the end", () => {
  const rnd = random(4);
  const a = Float32Array.from({ length: n }, () => rnd());
  const b = Float32Array.from({ length: n }, () => rnd());
  const one = blended([(i) => a[i]!, (i) => b[i]!], [0, H]);
  const cut = blended([(i) => a[i]!, (i) => b[i]!], [0, 64, 128, H]);
  cut.forEach((plane, c) => expect(plane).toEqual(one[c]));
  const turned = blended([(i) => a[i]!, (i) => b[i]!], [0, H], [0.5, 0.25, 0.25, 0, 2, 0, 0, 0, 0]);
  for (let i = 0; i < n; i += 97) {
    expect(turned[0]![i]).toBeCloseTo(one[0]![i]!, 5);
    expect(turned[1]![i]).toBeCloseTo(2 * one[1]![i]!, 5);
    expect(turned[2]![i]).toBe(0);
  }
});
