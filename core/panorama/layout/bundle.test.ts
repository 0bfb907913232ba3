import { normal, random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import { bundle } from "./bundle";
import { seen, shownBy, type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import { transpose, multiply } from "../../math/matrix3";
import type { Tie } from "../ties/verifyPair";

const WIDTH = 1200;
const HEIGHT = 800;
const camera = (yaw: number): Camera => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 2400,
  distortion: [0, 0, 0],
  width: WIDTH,
  height: HEIGHT,
});
const A = camera(-10);
const B = camera(10);

/**
 * Ties of two frames that share a quarter: half of them measured to a small part of a px, the
 * others along one direction only.
 */
function uneven(seed: number, measured: boolean): Tie[] {
  const uniform = random(seed);
  const gauss = normal(random(seed + 100));
  const ties: Tie[] = [];
  while (ties.length < 120) {
    const x = 900 + 290 * uniform();
    const y = 20 + 760 * uniform();
    const to = seen(B, shownBy(A, x, y));
    if (!to || to[0] < 10) continue;
    const acrossError = ties.length % 2 ? 2 : 0.05;
    const tie: Tie = [x + acrossError * gauss(), y + 0.05 * gauss(), ...to];
    if (measured) tie.push(1 / acrossError ** 2, 0, 1 / 0.05 ** 2);
    ties.push(tie);
  }
  return ties;
}

/** Degrees by which the found turn between the two is wrong. */
function turnError(ties: Tie[]): number {
  const lenses = { of: [0, 0], focalKnown: true };
  const { cameras } = bundle([A, B], [{ a: 0, b: 1, points: ties, leads: [], rmsPx: 0 }], lenses);
  const turn = (a: Camera, b: Camera): number[] => multiply(transpose(a.rotation), b.rotation);
  return degreesBetween(turn(A, B), turn(cameras[0]!, cameras[1]!));
}

test("what is measured exactly holds the cameras, what is not gives way", () => {
  const sum = (measured: boolean): number =>
    [1, 2, 3, 4, 5].reduce((total, seed) => total + turnError(uneven(seed, measured)), 0);
  expect(sum(true)).toBeLessThan(0.5 * sum(false));
});
