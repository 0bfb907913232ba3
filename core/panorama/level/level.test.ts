import { random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import { multiply, transpose } from "../../math/matrix3";
import { type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import { level } from "./level";

const camera = (rotation: number[]): Camera => ({
  rotation,
  focalPx: 900,
  distortion: [0, 0, 0],
  width: 800,
  height: 600,
});
/** Degrees by which a camera's world is off the upright one. */
const tilt = (found: Camera, truth: number[]): number => {
  const m = multiply(found.rotation, transpose(truth));
  return (Math.acos(Math.min(1, m[4]!)) * 180) / Math.PI;
};
const tipped = lookingAt(25, 17, 11);

test.each([
  ["a row", [-40, -20, 0, 20, 40], [0, 0, 0, 0, 0]],
  ["a row that looks down", [-30, 0, 30], [-25, -25, -25]],
  ["two rows", [-30, 0, 30, -30, 0, 30], [18, 18, 18, -14, -14, -14]],
  ["a full turn", [0, 60, 120, 180, 240, 300], [0, 0, 0, 0, 0, 0]],
] as const)(
  "%s that was found in a tipped world stands upright again, its middle ahead",
  (_, yaws, pitches) => {
    const truth = yaws.map((yaw, i) => lookingAt(yaw, pitches[i]!, 0));
    const set = level(truth.map((r) => camera(multiply(tipped, r)))) as Camera[];
    for (const [i, r] of truth.entries()) expect(tilt(set[i]!, r)).toBeLessThan(0.05);
    // nothing but the whole world was turned
    expect(
      degreesBetween(
        multiply(transpose(set[0]!.rotation), set.at(-1)!.rotation),
        multiply(transpose(truth[0]!), truth.at(-1)!),
      ),
    ).toBeLessThan(1e-5);
    const ahead = set.reduce((s, c) => [s[0]! + c.rotation[2]!, s[1]! + c.rotation[8]!], [0, 0]);
    if (yaws.length < 6 || pitches[0] !== 0)
      expect(Math.abs(ahead[0]! / ahead[1]!)).toBeLessThan(1e-6);
  },
);

test("a hand that rolls now this way, now that, is averaged out", () => {
  const rnd = random(6);
  const truth = Array.from({ length: 12 }, (_, i) => lookingAt(i * 15 - 80, 0, (rnd() - 0.5) * 4));
  const set = level(truth.map((r) => camera(multiply(tipped, r)))) as Camera[];
  expect(Math.max(...truth.map((r, i) => tilt(set[i]!, r)))).toBeLessThan(1.2);
});

test("a sweep straight up stays one, and frames without a place stay without", () => {
  const truth = [-25, 0, 25].map((pitch) => lookingAt(0, pitch, 0));
  const set = level([...truth.map((r) => camera(multiply(lookingAt(0, 0, 9), r))), undefined]);
  for (const [i, r] of truth.entries()) expect(tilt(set[i]!, r)).toBeLessThan(0.5);
  expect(set[3]).toBeUndefined();
  expect(level([undefined])).toEqual([undefined]);
});
