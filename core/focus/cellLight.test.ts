import { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { random } from "../math/random";
import { CELL, cellLight, compareCells, type CellLight } from "./cellLight";

const W = 160;
const H = 120;
const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1];
/** Cells of log luminance known by place; where `known` says no, there is no weight. */
function cells(
  log: (x: number, y: number) => number,
  known: (x: number, y: number) => boolean = () => true,
): CellLight {
  const heap = Heap.local(1e6);
  const L = heap.alloc(W * H * 4);
  const V = heap.alloc(W * H * 4);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      heap.f32(L, W * H)[y * W + x] = log(x, y);
      heap.f32(V, W * H)[y * W + x] = known(x, y) ? 1 : 0;
    }
  return cellLight(heap, {
    levels: [{ w: W, h: H, log: L, confidence: V }],
  } as unknown as LogPyramid);
}
const differences = (
  a: CellLight,
  b: CellLight,
  onward: number[] = IDENTITY,
): { x: number; y: number; brighter: number; explained: number }[] => {
  const out: ReturnType<typeof differences> = [];
  compareCells(
    a,
    b,
    onward as Parameters<typeof compareCells>[2],
    (x, y, _u, _v, brighter, explained) => out.push({ x, y, brighter, explained }),
  );
  return out;
};

test("blur moves light about within a cell but leaves its mean: the same scene sharp and soft differs by no more than is explained", () => {
  const rnd = random(3);
  const dots = Float32Array.from({ length: W * H }, () => rnd());
  const at = (x: number, y: number): number =>
    dots[Math.max(0, Math.min(H - 1, y)) * W + Math.max(0, Math.min(W - 1, x))]!;
  const sharp = cells((x, y) => Math.log2(0.1 + at(x, y)));
  const soft = cells((x, y) => {
    let s = 0;
    for (let v = -2; v <= 2; v++) for (let u = -2; u <= 2; u++) s += 0.1 + at(x + u, y + v);
    return Math.log2(s / 25);
  });
  const found = differences(sharp, soft);
  const unexplained = found.filter((d) => Math.abs(d.brighter) > d.explained);
  expect(found.length).toBe((W / CELL - 2) * (H / CELL - 2));
  expect(unexplained.length).toBeLessThan(0.05 * found.length);
});

test("a brighter frame is brighter in every cell by its EV, and what moved in is reported where it is", () => {
  const even = cells(() => -3);
  const brighter = differences(
    even,
    cells(() => -2.4),
  );
  for (const d of brighter) expect(d.brighter).toBeCloseTo(0.6, 3);
  const moved = differences(
    even,
    cells((x, y) => (x > 60 && x < 90 && y > 40 && y < 70 ? -5 : -3)),
  ).filter((d) => Math.abs(d.brighter) > d.explained);
  expect(moved.length).toBeGreaterThan(3);
  for (const { x, y } of moved) expect(x > 50 && x < 100 && y > 30 && y < 80).toBe(true);
});

test("cells follow the frame's motion, and those that are not known or not there say nothing", () => {
  const slope = (x: number): number => -4 + x / 40;
  const shift = 2 * CELL;
  const a = cells((x) => slope(x));
  const b = cells((x) => slope(x - shift));
  for (const d of differences(a, b, [1, 0, shift, 0, 1, 0, 0, 0, 1]))
    expect(Math.abs(d.brighter)).toBeLessThan(0.02);
  expect(differences(a, b, [1, 0, shift, 0, 1, 0, 0, 0, 1]).every((d) => d.x < W - shift)).toBe(
    true,
  );
  const half = differences(
    cells(
      (x) => slope(x),
      (x) => x < W / 2,
    ),
    a,
  );
  expect(half.length).toBeGreaterThan(0);
  expect(half.every((d) => d.x < W / 2 + CELL)).toBe(true);
});
