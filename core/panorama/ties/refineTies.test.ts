import { Heap } from "../../../kernels/heap";
import { median } from "../../math/median";
import { random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import { seen, shownBy, worldRay, type Camera } from "../camera";
import type { TiePair } from "../layout/geometry";
import { refineTies } from "./refineTies";
import { tiePlane, type LogPlane } from "./tiePlane";

const W = 240;
const H = 180;
const SCALE = 4;
const heap = Heap.local(20e6);
const camera = (yaw: number, pitch: number, roll: number): Camera => ({
  rotation: lookingAt(yaw, pitch, roll),
  focalPx: 900,
  distortion: [0, 0, 0],
  width: W * SCALE,
  height: H * SCALE,
});
const A = camera(-8, 1, 0.5);
const B = camera(9, -1.5, -1);
/** Log luminance of a direction: waves of several lengths, and nothing at all below a line. */
const world = ([x, y, z]: readonly number[]): number => {
  const u = 60 * (x! / z!);
  const v = 60 * (y! / z!);
  return v > 6
    ? 0
    : 0.7 * Math.sin(u * 1.1 + 0.6 * v) +
        0.5 * Math.cos(1.7 * v - 0.8 * u) +
        0.4 * Math.sin(0.31 * u * v);
};

/** A camera's plane, so many EV brighter, with some noise. */
function planeOf(c: Camera, ev: number, seed: number, noise = 0.02): LogPlane {
  const rnd = random(seed);
  const log = heap.alloc(W * H * 8 + 64);
  const confidence = log + W * H * 4;
  const L = heap.f32(log, W * H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      L[y * W + x] =
        world(worldRay(c, (x + 0.5) * SCALE, (y + 0.5) * SCALE)) + ev + noise * (rnd() - 0.5);
  heap.f32(confidence, W * H).fill(1);
  return tiePlane(heap, { log, confidence, w: W, h: H }, heap.alloc(W * H * 8 + 64));
}
/** Places of A that B sees too, with where; each second place is off by so many px. */
function ties(off: number, from = 40, to = 400): TiePair["points"] {
  const rnd = random(7);
  const out: TiePair["points"] = [];
  for (let k = 0; k < 400 && out.length < 40; k++) {
    const x = 60 + rnd() * (W * SCALE - 120);
    const y = from + rnd() * (to - from);
    const p = seen(B, shownBy(A, x, y));
    const turn = rnd() * 2 * Math.PI;
    if (p && p[0] > 60 && p[0] < W * SCALE - 60 && p[1] > 60 && p[1] < H * SCALE - 60)
      out.push([x, y, p[0] + off * Math.cos(turn), p[1] + off * Math.sin(turn)]);
  }
  return out;
}
const refined = (
  points: TiePair["points"],
  planes = [planeOf(A, 0, 1), planeOf(B, 1, 2)],
): TiePair[] => refineTies(heap, planes, [A, B], [{ a: 0, b: 1, points, errors: [] }], SCALE);
/** How far a tie is from what the cameras draw, px at full size. */
const errorOf = ([ax, ay, bx, by]: TiePair["points"][number]): number => {
  const p = seen(B, shownBy(A, ax, ay))!;
  return Math.hypot(bx - p[0], by - p[1]);
};

test("ties that are off by some px are moved to where they belong, through a change of light, a roll and noise", () => {
  const [pair] = refined(ties(6));
  expect(pair!.points.length).toBeGreaterThan(30);
  const errors = pair!.points.map(errorOf).sort((a, b) => a - b);
  // of px at full size, a quarter of those that are compared
  expect(errors[errors.length >> 1]).toBeLessThan(0.15);
  expect(errors.at(-1)).toBeLessThan(0.6);
});

test("where nothing is to be seen no tie stays, nor where something else is", () => {
  expect(refined(ties(2, 560, 700))).toEqual([]);
  const other = planeOf(B, 0, 3);
  const L = heap.f32(other.log, W * H);
  const rnd = random(9);
  const wave = Array.from({ length: 8 }, () => [rnd() * 0.5, rnd() * 0.5, rnd() * 6] as const);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      L[y * W + x] = wave.reduce((s, [a, b, c]) => s + 0.4 * Math.sin(a * x + b * y + c), 0);
  expect(refined(ties(2), [planeOf(A, 0, 1), other])).toEqual([]);
});

test("too few ties are none, and a frame without a place keeps none", () => {
  expect(refined(ties(2).slice(0, 4))).toEqual([]);
  expect(
    refineTies(
      heap,
      [planeOf(A, 0, 1), planeOf(B, 0, 2)],
      [A, undefined],
      [{ a: 0, b: 1, points: ties(2), errors: [] }],
      SCALE,
    ),
  ).toEqual([]);
});

test("smoothing keeps a slope, and what has no weight has no say in it", () => {
  const own = Heap.local(4e6);
  const w = 40;
  const h = 30;
  const log = own.alloc(w * h * 4);
  const confidence = own.alloc(w * h * 4);
  const to = own.alloc(w * h * 8 + 64);
  own.f32(log, w * h).forEach((_, i, p) => {
    p[i] = 0.1 * (i % w);
  });
  own.f32(confidence, w * h).fill(1);
  // a lamp that is clipped
  own.f32(log, w * h)[15 * w + 20] = 30;
  own.f32(confidence, w * h)[15 * w + 20] = 0;
  const { log: smooth, confidence: kept } = tiePlane(own, { log, confidence, w, h }, to);
  for (let y = 4; y < h - 4; y++)
    for (let x = 4; x < w - 4; x++)
      expect(Math.abs(own.f32(smooth, w * h)[y * w + x]! - 0.1 * x)).toBeLessThan(0.03);
  expect([...own.f32(kept, w * h)]).toEqual([...own.f32(confidence, w * h)]);
});

test.each([0.05, 0.3, 0.6])("with noise of %f ties say how exactly they are known", (noise) => {
  const points = [4, 5, 6].flatMap(
    (seed) =>
      refined(ties(3), [planeOf(A, 0, seed, noise), planeOf(B, 1, seed + 10, noise)])[0]!.points,
  );
  // of errors that are as large as said the square in units of the covariance is 2 in the mean, and
  // 1.4 in the middle
  const squares = points.map(([ax, ay, bx, by, xx, xy, yy]) => {
    const from = seen(A, shownBy(B, bx, by))!;
    const [ex, ey] = [from[0] - ax, from[1] - ay];
    return xx! * ex * ex + 2 * xy! * ex * ey + yy! * ey * ey;
  });
  expect(median(squares)).toBeGreaterThan(0.2);
  expect(median(squares)).toBeLessThan(4);
});
