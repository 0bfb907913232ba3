import { apply, invert } from "../math/matrix3";
import { degreesBetween } from "../math/rotation";
import { turnByHand } from "../math/viewTurn";
import { guidedTurn, type FrameGuide } from "./guidedTurn";
import { intrinsics } from "./pictureMapping";

const lens = { width: 6000, height: 4000, focalPx: 4000, isKnown: true };

/** A line of the upright world as a camera sees it that has to be turned by `turn`. */
function drawn(
  turn: readonly number[],
  kind: FrameGuide["kind"],
  ends: readonly (readonly number[])[],
): FrameGuide {
  const [from, to] = ends.map((ray): [number, number] => {
    const [x, y, z] = apply(intrinsics(lens.focalPx, lens), apply(invert(turn), ray));
    return [x / z / lens.width, y / z / lens.height];
  });
  return { kind, from: from!, to: to! };
}
const vertical = (turn: readonly number[], x: number): FrameGuide =>
  drawn(turn, "vertical", [
    [x, -0.3, 1],
    [x, 0.25, 1],
  ]);
const level = (turn: readonly number[], y: number): FrameGuide =>
  drawn(turn, "level", [
    [-0.4, y, 1],
    [0.35, y, 1],
  ]);

test("without guides nothing turns", () =>
  expect(degreesBetween(guidedTurn([], lens).turn, [1, 0, 0, 0, 1, 0, 0, 0, 1])).toBe(0));

test("one line rolls the picture, be it level or vertical", () => {
  const turn = turnByHand({ yaw: 0, pitch: 0, roll: 3 });
  for (const guide of [level(turn, 0.1), vertical(turn, 0.02)])
    expect(degreesBetween(guidedTurn([guide], lens).turn, turn)).toBeLessThan(0.1);
});

test("two vertical lines tell tilt and roll", () => {
  const turn = turnByHand({ yaw: 0, pitch: -9, roll: 2 });
  const found = guidedTurn([vertical(turn, -0.5), vertical(turn, 0.45)], lens);
  // of which way it looks they say nothing
  const [x, y, z] = apply(found.turn, apply(invert(turn), [0, 1, 0]));
  expect((Math.atan2(Math.hypot(x, z), y) * 180) / Math.PI).toBeLessThan(0.02);
});

test("two lines each show a facade from its front", () => {
  const turn = turnByHand({ yaw: 17, pitch: -7, roll: 2 });
  const lines = [vertical(turn, -0.4), vertical(turn, 0.4), level(turn, -0.25), level(turn, 0.2)];
  const found = guidedTurn(lines, lens);
  expect(degreesBetween(found.turn, turn)).toBeLessThan(0.05);
  expect(found.focalPx).toBeCloseTo(lens.focalPx, -1);
  // where the file does not tell it, the four lines tell the focal length
  const guessed = guidedTurn(lines, { ...lens, focalPx: 3000, isKnown: false });
  expect(guessed.focalPx / lens.focalPx).toBeGreaterThan(0.97);
  expect(guessed.focalPx / lens.focalPx).toBeLessThan(1.03);
  expect(degreesBetween(guessed.turn, turn)).toBeLessThan(0.5);
});

test("a line without length, and lines that contradict each other, turn nothing wildly", () => {
  const point: FrameGuide = { kind: "level", from: [0.5, 0.5], to: [0.5, 0.5] };
  const across: FrameGuide = { kind: "vertical", from: [0.1, 0.5], to: [0.9, 0.52] };
  const along: FrameGuide = { kind: "level", from: [0.1, 0.5], to: [0.9, 0.5] };
  for (const guides of [[point], [point, along], [across, along]]) {
    const { turn, focalPx } = guidedTurn(guides, lens);
    expect(turn.every(Number.isFinite)).toBe(true);
    expect(focalPx).toBeGreaterThan(1000);
  }
});
