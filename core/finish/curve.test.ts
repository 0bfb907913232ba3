import type { CurvePoint } from "./adjustments";
import { curveTable, monotoneCurve } from "./curve";

test.each<[CurvePoint[]]>([
  [[]],
  [[[0.5, 0.7]]],
  [
    [
      [0.1, 0.4],
      [0.11, 0.41],
      [0.9, 0.5],
    ],
  ],
  [
    [
      [0, 0.1],
      [0.3, 0.1],
      [1, 0.9],
    ],
  ],
])("a curve through rising points rises, and goes through them: %j", (points) => {
  const curve = monotoneCurve(points);
  for (let i = 1; i <= 200; i++)
    expect(curve(i / 200)).toBeGreaterThanOrEqual(curve((i - 1) / 200) - 1e-9);
  for (const [x, y] of points) expect(curve(x)).toBeCloseTo(y, 6);
});

test("no points are a straight line, and need no table", () => {
  expect(monotoneCurve([])(0.37)).toBeCloseTo(0.37, 6);
  expect(curveTable([])).toBeUndefined();
});
