import { lookingAt } from "../../../simulate/sweep";
import { inFrame, seen, shownBy, type Camera } from "../camera";
import { withMore } from "./moreTies";
import type { Tie } from "./verifyPair";

const camera = (yaw: number): Camera => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 1300,
  distortion: [0, 0, 0],
  width: 900,
  height: 600,
});
const A = camera(-8);
const B = camera(8);
const features = (places: readonly number[]) => ({
  points: Float32Array.from(places),
  descriptors: new Float32Array(0),
  count: places.length / 2,
});
const own: Tie[] = [[600, 300, ...seen(B, shownBy(A, 600, 300))!]];

test("a pair alone is given places all over what both show, and keeps its own", () => {
  const corner = [400, 150];
  const [pair] = withMore(
    [{ a: 0, b: 1, points: own, errors: [] }],
    [A, B],
    [features(corner.map((v) => v / 2)), features([])],
    2,
  );
  const { points } = pair!;
  expect(points[0]).toBe(own[0]);
  expect(points[1]!.slice(0, 2)).toEqual(corner);
  expect(points.length).toBeGreaterThan(300);
  for (const [x, y, bx, by] of points) {
    expect(inFrame(B, [bx, by])).toBe(true);
    const to = seen(B, shownBy(A, x, y))!;
    expect(Math.hypot(to[0] - bx, to[1] - by)).toBeLessThan(1e-9);
  }
  const rows = new Set(points.map(([, y]) => Math.floor(y / 100)));
  expect(rows.size).toBe(6);
});

test("pairs that many others hold up are given few, and one without a place none", () => {
  const pairs = Array.from({ length: 100 }, () => ({ a: 0, b: 1, points: own, errors: [] }));
  const filled = withMore(pairs, [A, B], [features([]), features([])], 1);
  expect(filled.every((pair) => pair.points.length <= 110)).toBe(true);
  expect(
    withMore(pairs.slice(0, 1), [A, undefined], [features([]), features([])], 1)[0]!.points,
  ).toEqual(own);
});
