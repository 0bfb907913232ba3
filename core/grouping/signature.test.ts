import {
  COLOUR_CODES,
  codeOf,
  evBetween,
  HIGHEST,
  SIGNATURE_EDGE,
  LOWEST,
  makeSignature,
  SHARP_X,
  SHARP_Y,
  type FrameSignature,
} from "./signature";
import { random } from "../math/random";

const W = 360;
const H = 240;
/** The signature of a picture of linear light. */
const lookOf = (light: (x: number, y: number, c: number) => number, w = W, h = H): FrameSignature =>
  makeSignature({
    width: w,
    height: h,
    samples: Float32Array.from({ length: w * h * 3 }, (_, k) =>
      light(Math.floor(k / 3) % w, Math.floor(k / 3 / w), k % 3),
    ),
    lut: new Float32Array(0),
  } as unknown as Parameters<typeof makeSignature>[0]);
const rnd = random(6);
const dots = Float32Array.from({ length: W * H }, () => rnd());

test("a stop more is a stop more in every cell, so that frames of a bracket look alike", () => {
  const scene = (x: number, y: number): number => 0.02 + 0.1 * (x / W) + 0.05 * (y / H);
  const a = lookOf(scene);
  const b = lookOf((x, y) => 2 * scene(x, y));
  expect(Math.max(a.width, a.height)).toBe(SIGNATURE_EDGE);
  a.log.forEach((code, i) => {
    if (code > LOWEST && b.log[i]! < HIGHEST) expect(evBetween(code, b.log[i]!)).toBeCloseTo(1, 0);
  });
  // in the mean to a part of a code
  const mean = (l: FrameSignature): number => l.log.reduce((s, v) => s + v, 0) / l.log.length;
  expect(evBetween(mean(a), mean(b))).toBeCloseTo(1, 1);
});

test("what is saturated or black is marked, and a cell that holds much of either has no value", () => {
  const signature = lookOf((x) => (x < W / 4 ? 1 : x < W / 2 ? 0 : 0.2));
  expect(signature.bright).toBeCloseTo(0.25, 2);
  expect(signature.dark).toBeCloseTo(0.25, 2);
  expect(signature.log[0]).toBe(255);
  expect(signature.log[Math.floor(signature.width * 0.35)]).toBeLessThan(LOWEST);
  expect(evBetween(signature.log[signature.width - 1]!, codeOf(0.2))).toBeCloseTo(0, 1);
  expect([codeOf(2), codeOf(0), codeOf(-1)]).toEqual([255, 0, 0]);
});

test("where it is sharp is known whatever the exposure", () => {
  const half = (gain: number): FrameSignature =>
    lookOf((x, y) => gain * (x < W / 2 ? 0.1 + 0.1 * dots[y * W + x]! : 0.15));
  const a = half(1);
  const b = half(0.25);
  for (let cy = 0; cy < SHARP_Y; cy++) {
    expect(a.sharp[cy * SHARP_X + 2]!).toBeGreaterThan(a.sharp[cy * SHARP_X + SHARP_X - 2]! + 48);
    expect(Math.abs(a.sharp[cy * SHARP_X + 2]! - b.sharp[cy * SHARP_X + 2]!)).toBeLessThan(6);
  }
});

test("colours are stored against green, and not where nothing is well exposed", () => {
  const { colour } = lookOf((x, _y, c) => (x < W / 2 ? [0.2, 0.1, 0.05][c]! : 0.0001));
  const cells = SHARP_X * SHARP_Y;
  expect(colour![0]).toBeCloseTo(128 + COLOUR_CODES, -0.5);
  expect(colour![cells]).toBeCloseTo(128 - COLOUR_CODES, -0.5);
  expect(colour![SHARP_X - 1]).toBe(0);
});

test.each([
  [1, 1],
  [3, 200],
  [500, 2],
])("a picture of %i x %i px has a look too", (w, h) => {
  const signature = lookOf(() => 0.3, w, h);
  expect(signature.width * signature.height).toBe(signature.log.length);
  expect(signature.width).toBeGreaterThan(0);
  expect([...signature.log].every((v) => Math.abs(evBetween(v, codeOf(0.3))) < 0.1)).toBe(true);
});
