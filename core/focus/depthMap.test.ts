import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { depthGrid, isGuess, partOf, shareKnown } from "./depthGrid";
import { depthMap, depthScratch, peakBeside } from "./depthMap";

const W = 120;
const H = 80;
const n = W * H;
const rnd = random(5);
/**
 * A slope from place 0 to 20, before which a thing stands at place 3; half of the slope has no
 * texture.
 */
const truth = Float32Array.from({ length: n }, (_, i) => {
  const x = i % W;
  const y = Math.floor(i / W);
  return x > 50 && x < 64 && y > 20 && y < 66 ? 3 : 20 * (y / H);
});
const standing = (i: number): boolean => truth[i] === 3 && i % W > 50 && i % W < 64;
const textured = (i: number): boolean => standing(i) || (i % W) % 30 > 12 || rnd() < 0.15;

test("places without texture take the depth round them, single wrong ones are drawn in, and an edge keeps its step", () => {
  const heap = Heap.local(depthScratch(n) * 2 + 4e6);
  const place = new Float32Array(n);
  const best = new Float32Array(n);
  const mean = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const sharp = textured(i);
    const wrong = rnd() < 0.04;
    place[i] = sharp && !wrong ? Math.round(truth[i]!) : Math.floor(rnd() * 21);
    best[i] = sharp ? 1e-3 * (0.5 + rnd()) : 2e-6 * (0.8 + 0.4 * rnd());
    mean[i] = best[i]! / (sharp ? 6 : 1.3);
  }
  const guide = Float32Array.from(
    { length: n },
    (_, i) => (standing(i) ? 0.15 : 0.6) + 0.02 * rnd(),
  );
  const { depth, trust, known } = depthMap(heap, {
    width: W,
    height: H,
    place,
    beside: new Float32Array(n),
    best,
    mean,
    guide,
  });
  const inside: number[] = [];
  const edge: number[] = [];
  for (let i = 0; i < n; i++) {
    const x = i % W;
    const near = x > 46 && x < 68 && !(x > 53 && x < 61);
    (near ? edge : inside).push(Math.abs(depth[i]! - truth[i]!));
  }
  const rms = (e: number[]): number => Math.sqrt(e.reduce((s, v) => s + v * v, 0) / e.length);
  expect(rms(inside)).toBeLessThan(0.9);
  // across the thing's edge: well under what the mean of both sides would be wrong by
  expect(rms(edge)).toBeLessThan(2.5);
  expect([...trust, ...known].every((v) => v >= 0 && v <= 1)).toBe(true);
});

test("depth is known where what is sharp agrees, and a guess where nothing is sharp or noise alone peaks anywhere", () => {
  // columns: texture; nothing, each frame as sharp as all; peaks of noise at any place
  const heap = Heap.local(depthScratch(n) * 2 + 4e6);
  const third = (i: number): number => Math.floor((3 * (i % W)) / W);
  const sharp = (i: number): boolean => third(i) !== 1 && rnd() < 0.4;
  const place = new Float32Array(n);
  const best = new Float32Array(n).fill(2e-3);
  const mean = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const clear = sharp(i);
    place[i] = third(i) === 0 ? 7 : Math.floor(rnd() * 21);
    if (clear) best[i] = 3e-2;
    mean[i] = best[i]! / (clear ? 3 : 1.2);
  }
  const { known } = depthMap(heap, {
    width: W,
    height: H,
    place,
    beside: new Float32Array(n),
    best,
    mean,
    guide: new Float32Array(n).fill(0.4),
  });
  const inner = [0, 1, 2].map((t) =>
    known
      .filter((_, i) => third(i) === t && third(i - 8) === t && third(i + 8) === t)
      .reduce((a, v) => [Math.min(a[0]!, v), Math.max(a[1]!, v)], [1, 0]),
  );
  expect(inner[0]![0]).toBeGreaterThan(0.6);
  expect(inner[1]![1]).toBeLessThan(0.2);
  expect(inner[2]![1]).toBeLessThan(0.5);
});

test("sharpness that peaks between two frames is found where it does, and nothing where frames beside the sharpest are unknown or alike", () => {
  for (const top of [-0.45, -0.2, 0, 0.3, 0.5]) {
    const bell = (k: number): number => 4e-4 * Math.exp(-((k - top) ** 2) / (2 * 1.3 ** 2));
    expect(peakBeside(bell(-1), bell(0), bell(1))).toBeCloseTo(top, 6);
  }
  expect(peakBeside(0, 1, 0.5)).toBe(0);
  expect(peakBeside(0.5, 1, 0)).toBe(0);
  expect(peakBeside(0.999, 1, 0.998)).toBe(0);
  for (const [a, c] of [
    [1, 1e-9],
    [1e-9, 1],
    [0.3, 0.7],
  ] as const)
    expect(Math.abs(peakBeside(a, 1, c))).toBeLessThanOrEqual(0.5);
});

test("a slope is found between frames: its peaks lie nearer to it than the frames do, and its cells hold their means", () => {
  const heap = Heap.local(depthScratch(n) * 2 + 4e6);
  const slope = Float32Array.from({ length: n }, (_, i) => 1 + 6 * (Math.floor(i / W) / H));
  const place = slope.map((v) => Math.round(v));
  const bell = (i: number, k: number): number =>
    1e-3 * Math.exp(-((slope[i]! - place[i]! - k) ** 2) / 2);
  const { depth, peak } = depthMap(heap, {
    width: W,
    height: H,
    place,
    beside: place.map((_, i) => peakBeside(bell(i, -1), bell(i, 0), bell(i, 1))),
    best: place.map((_, i) => bell(i, 0)),
    mean: place.map((_, i) => bell(i, 0) / 5),
    guide: Float32Array.from({ length: n }, () => 0.4 + 0.05 * rnd()),
  });
  const off = (d: Float32Array): number => {
    let s = 0;
    let m = 0;
    for (let i = 8 * W; i < n - 8 * W; i++, m++) s += (d[i]! - slope[i]!) ** 2;
    return Math.sqrt(s / m);
  };
  expect(off(peak)).toBeLessThan(0.05);
  expect(off(depth)).toBeGreaterThan(3 * off(peak));
  const known = new Float32Array(n).fill(1);
  const long = Float32Array.from({ length: 1000 * 10 }, (_, i) => i % 1000);
  const grid = depthGrid({ peak: slope, known }, W, H);
  const coarse = depthGrid({ peak: long, known: long.map((v) => v / 1000) }, 1000, 10);
  expect([grid.width, grid.height, [...grid.places]]).toEqual([W, H, [...slope]]);
  expect([coarse.width, coarse.height]).toEqual([333, 3]);
  expect([...coarse.places.subarray(0, 3)]).toEqual([1, 4, 7]);
  const part = partOf(coarse, { x: 0.5, y: 0, width: 0.1, height: 1 });
  expect([part.width, part.height, part.places[0]]).toEqual([34, 3, 3 * 166 + 1]);
  expect(part.known[0]).toBeCloseTo((3 * 166 + 1) / 1000, 6);
  expect([isGuess(coarse, 0.25, 0.9), isGuess(coarse, 0.35, 0.1), isGuess(coarse, 1, 1)]).toEqual([
    true,
    false,
    false,
  ]);
  expect(shareKnown(coarse)).toBeCloseTo(0.7, 2);
  expect(partOf(coarse, { x: 0, y: 0, width: 1, height: 1 })).toEqual(coarse);
});
