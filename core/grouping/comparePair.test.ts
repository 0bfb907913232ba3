import { simulatedRoom } from "../../simulate/room";
import { compareAt, comparePair } from "./comparePair";
import { onlyPartly } from "./pairView";
import { makeSignature, type FrameSignature } from "./signature";
import { clamp } from "../math/clamp";

const W = 192;
const H = 128;
const room = simulatedRoom(700, 400, 8);
const LUT = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2);
/** A cut of the room at x, y, as a frame exposed by so many EV. */
function signature(x: number, y: number, ev = 0, from = room): FrameSignature {
  const samples = new Uint8Array(W * H * 3);
  for (let v = 0; v < H; v++)
    for (let u = 0; u < W; u++)
      for (let c = 0; c < 3; c++)
        samples[(v * W + u) * 3 + c] = Math.round(
          255 *
            clamp(from.planes[c as 0 | 1 | 2]![(y + v) * from.width + x + u]! * 2 ** ev, 0, 1) **
              (1 / 2.2),
        );
  return makeSignature({ samples, lut: LUT, width: W, height: H });
}
/** Long lenses see nearly flat: the sphere changes little. */
const FOCAL = 4;

test.each([
  [96, 0, 0],
  [-80, 20, 1],
  [10, -50, -1.5],
])(
  "a cut that lies %i, %i px off, %f EV apart, is found there, with its exposure",
  (dx, dy, ev) => {
    const p = comparePair(signature(250, 130), signature(250 + dx, 130 + dy, ev), FOCAL)!;
    expect(p.certainty).toBeGreaterThan(7);
    expect(Math.abs(p.dx - dx / W)).toBeLessThan(0.03);
    expect(Math.abs(p.dy - dy / H)).toBeLessThan(0.03);
    expect(p.gainEv).toBeCloseTo(ev, 0);
  },
);

test("a place that is expected is as sure as one that was searched for, and elsewhere nothing is", () => {
  const a = signature(250, 130);
  const b = signature(340, 130);
  const found = comparePair(a, b, FOCAL)!;
  const there = compareAt(a, b, FOCAL, { dx: 90 / W, dy: 0 })!;
  expect(there.certainty).toBeGreaterThan(0.8 * found.certainty);
  for (const guess of [
    { dx: -0.5, dy: 0 },
    { dx: 0.1, dy: 0.4 },
  ])
    expect(compareAt(a, b, FOCAL, guess)?.certainty ?? 0).toBeLessThan(0.5 * found.certainty);
});

test("frames of one view are one, whatever else they resemble; other rooms are distinguished", () => {
  const again = comparePair(signature(250, 130), signature(251, 131, 2), FOCAL)!;
  expect(Math.max(Math.abs(again.dx), Math.abs(again.dy))).toBeLessThan(0.05);
  expect(again.certainty).toBeGreaterThan(10);
  let surest = 0;
  for (let k = 0; k < 6; k++)
    surest = Math.max(
      surest,
      comparePair(
        signature(250, 130),
        signature(250, 130, 0, simulatedRoom(700, 400, 90 + k)),
        FOCAL,
      )?.certainty ?? 0,
    );
  expect(surest).toBeLessThan(again.certainty);
});

test("frames of different shape tell nothing", () => {
  const tall = { ...signature(250, 130), width: 64, height: 96 };
  expect(comparePair(signature(250, 130), tall, FOCAL)).toBeUndefined();
  expect(compareAt(signature(250, 130), tall, FOCAL, { dx: 0, dy: 0 })).toBeUndefined();
});

test("where light is not what the settings let expect, a place that looks alike is believed less", () => {
  const a = signature(250, 130);
  const b = signature(340, 130, 1.5);
  const alike = comparePair(a, b, FOCAL, 1.5)!;
  const unlike = comparePair(a, b, FOCAL, 0)!;
  expect(alike.certainty).toBeGreaterThan(7);
  expect(unlike.certainty).toBeLessThan(0.4 * alike.certainty);
  // a cloud's worth of light leaves it as sure as need be
  expect(comparePair(a, b, FOCAL, 1.3)!.certainty).toBeGreaterThan(0.8 * alike.certainty);
});

test("a tripod's legs, in the same place of every frame, are known for a part only: two views past them are not taken for one", () => {
  /** A cut with dark legs that spread downwards from its middle. */
  const past = (x: number, y: number): FrameSignature => {
    const samples = new Uint8Array(W * H * 3);
    for (let v = 0; v < H; v++)
      for (let u = 0; u < W; u++) {
        const leg =
          v > 78 && Math.min(Math.abs(u - 96), Math.abs(Math.abs(u - 96) - (v - 78) * 0.6)) < 5;
        for (let c = 0; c < 3; c++)
          samples[(v * W + u) * 3 + c] = leg
            ? 22
            : Math.round(
                255 *
                  clamp(room.planes[c as 0 | 1 | 2]![(y + v) * room.width + x + u]!, 0, 1) **
                    (1 / 2.2),
              );
      }
    return makeSignature({ samples, lut: LUT, width: W, height: H });
  };
  const there = compareAt(past(150, 60), past(420, 230), FOCAL, { dx: 0, dy: 0 })!;
  expect(there.certainty).toBeGreaterThan(5);
  expect(onlyPartly(there)).toBe(true);
  expect(onlyPartly(compareAt(past(150, 60), past(151, 60), FOCAL, { dx: 0, dy: 0 })!)).toBe(false);
});
