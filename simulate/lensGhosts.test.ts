import { addGhosts } from "./lensGhosts";

test("a bright thing is thrown to the other side of the axis, as much of its light as is said", () => {
  const w = 240;
  const h = 160;
  const lit = (): Float32Array => {
    const p = new Float32Array(w * h);
    for (let y = 20; y < 36; y++) for (let x = 180; x < 196; x++) p[y * w + x] = 50;
    return p;
  };
  const planes = [lit(), lit(), lit()];
  const before = lit();
  const total = before.reduce((s, v) => s + v, 0);
  addGhosts(planes, w, h, [120, 80], [{ scale: -0.5, blur: 4, share: [0.001, 0.002, 0] }]);
  const added = planes.map((p) => p.map((v, i) => v - before[i]!));
  const sums = added.map((p) => p.reduce((s, v) => s + v, 0));
  expect(sums[0]! / total).toBeCloseTo(0.001, 4);
  expect(sums[1]! / total).toBeCloseTo(0.002, 4);
  expect(sums[2]).toBe(0);
  let x = 0;
  let y = 0;
  for (let i = 0; i < w * h; i++) {
    x += added[1]![i]! * ((i % w) + 0.5);
    y += added[1]![i]! * (Math.floor(i / w) + 0.5);
  }
  // its middle lies 68 px right of the axis and 52 above it
  expect(x / sums[1]!).toBeCloseTo(120 - 34, 0);
  expect(y / sums[1]!).toBeCloseTo(80 + 26, 0);
});
