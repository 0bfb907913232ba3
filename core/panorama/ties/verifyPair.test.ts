import { random } from "../../math/random";
import { rayOf, seen, type Camera } from "../camera";
import { degreesBetween, rotationFromVector } from "../../math/rotation";
import { apply } from "../../math/matrix3";
import { verifyPair, type VerifiedPair } from "./verifyPair";

const LENS: Camera = {
  rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  focalPx: 1400,
  distortion: [0, 0, 0],
  width: 2000,
  height: 1400,
};
type Points = VerifiedPair["points"];

/**
 * Matches of which so many lie as a turn has them, half a pixel off at most, and the others
 * anywhere.
 */
function matches(leads: number[], right: number, wrong: number, seed: number, within = 1): Points {
  const rnd = random(seed);
  const out: Points = [];
  const anywhere = (): [number, number] => [rnd() * LENS.width, rnd() * LENS.height];
  while (out.length < right) {
    const b: [number, number] = [
      LENS.width * (0.5 + (rnd() - 0.5) * within),
      LENS.height * (0.5 + (rnd() - 0.5) * within),
    ];
    const a = seen(LENS, apply(leads, rayOf(LENS, ...b)));
    if (a && a[0] > 0 && a[1] > 0 && a[0] < LENS.width && a[1] < LENS.height)
      out.push([a[0] + rnd() - 0.5, a[1] + rnd() - 0.5, ...b]);
  }
  for (let i = 0; i < wrong; i++) out.push([...anywhere(), ...anywhere()]);
  return out
    .map((m) => ({ m, at: rnd() }))
    .sort((p, q) => p.at - q.at)
    .map(({ m }) => m);
}

test.each([
  [0.1, 60, 20],
  [0.5, 80, 90],
  [-0.3, 120, 220],
])("a turn by %s is found among %s right matches and %s wrong ones", (yaw, right, wrong) => {
  const leads = rotationFromVector([0.04, yaw, -0.06]);
  const found = verifyPair(matches(leads, right, wrong, 5), LENS, LENS, 1)!;
  expect(degreesBetween(found.leads, leads)).toBeLessThan(0.03);
  expect(found.inliers.length).toBeGreaterThan(0.95 * right);
  expect(found.inliers.length).toBeLessThan(right + 0.1 * wrong + 2);
  expect(found.rmsPx).toBeLessThan(2);
});

test("frames of other places are never taken for neighbours", () => {
  for (let seed = 1; seed <= 40; seed++)
    expect(
      verifyPair(
        matches(rotationFromVector([0, 0.1, 0]), 0, 20 + seed * 6, seed),
        LENS,
        LENS,
        seed,
      ),
    ).toBeUndefined();
});

test("too few matches, or matches of one spot, hold nothing", () => {
  expect(
    verifyPair(matches(rotationFromVector([0, 0.1, 0]), 5, 0, 3), LENS, LENS, 1),
  ).toBeUndefined();
  expect(
    verifyPair(matches(rotationFromVector([0, 0.1, 0]), 60, 0, 3, 0.01), LENS, LENS, 1),
  ).toBeUndefined();
});

test("a wrong focal length holds fewer of the matches, and worse", () => {
  const far = matches(rotationFromVector([0.02, 0.6, 0.03]), 150, 30, 7);
  const score = (focalPx: number): number => {
    const found = verifyPair(far, { ...LENS, focalPx }, { ...LENS, focalPx }, 1, 150);
    return found ? found.inliers.length / (1 + (found.rmsPx / 2.4) ** 2) : 0;
  };
  const exact = score(LENS.focalPx);
  for (const by of [0.6, 0.8, 1.25, 1.7]) expect(score(LENS.focalPx * by)).toBeLessThan(exact);
});
