import { lensPoints, refocus, type LensView } from "./refocus";

const W = 60;
const H = 40;
const FOCAL = 300;
/** Two dots, one 50 mm and one 100 mm away, as they are seen through a point of the lens. */
function seenFrom([right, up]: [number, number]): LensView {
  const plane = new Float32Array(W * H);
  for (const [x, y, z] of [
    [20, 20, 50],
    [40, 20, 100],
  ] as const) {
    const u = x - (FOCAL * right) / z;
    const v = y + (FOCAL * up) / z;
    const ix = Math.floor(u);
    const iy = Math.floor(v);
    for (const [i, j] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ] as const)
      plane[(iy + j) * W + ix + i]! += (i ? u - ix : 1 - u + ix) * (j ? v - iy : 1 - v + iy);
  }
  return { image: { width: W, height: H, planes: [plane, plane, plane] }, right, up };
}

test("what lies in the plane in focus is sharp, and what lies elsewhere spreads over the circle that the lens makes", () => {
  const views = lensPoints(60, 1).map(seenFrom);
  const near = refocus(views, FOCAL, 50).planes[0];
  const far = refocus(views, FOCAL, 100).planes[0];
  const at = (p: Float32Array, x: number, y: number): number =>
    [-1, 0, 1]
      .flatMap((j) => [-1, 0, 1].map((i) => p[(y + j) * W + x + i]!))
      .reduce((s, v) => s + v, 0);
  expect(at(near, 20, 20)).toBeGreaterThan(0.99);
  expect(at(far, 40, 20)).toBeGreaterThan(0.99);
  // 300 px * 1 mm * (1/50 - 1/100) is a circle of 3 px radius, of which nine px hold a third
  expect(at(near, 40, 20)).toBeLessThan(0.5);
  expect(near.reduce((s, v) => s + v, 0)).toBeCloseTo(2, 3);
});
