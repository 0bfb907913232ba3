import { random } from "../math/random";
import { smoothRegions } from "./smoothRegions";

const W = 120;
const H = 60;
const OPTIONS = { strength: 2500, edge: 0.45 };

test.each([0, 0.5])(
  "regions beside a step of 5 EV, %f of a cell in it, become one value each",
  (mixed) => {
    const rnd = random(5);
    const values = new Float32Array(W * H);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        let base = x < W / 2 ? -4 : 1;
        if (x === W / 2 && mixed) base = -1.5;
        values[y * W + x] = base + 0.6 * (rnd() - 0.5) + 0.4 * Math.sin(x / 5);
      }
    const out = smoothRegions(values, W, H, OPTIONS);
    for (const [from, to, level] of [
      [4, W / 2 - 2, -4],
      [W / 2 + 2, W - 4, 1],
    ] as const)
      for (let x = from; x < to; x++)
        // nothing of the other side is felt, right up to the edge
        expect(Math.abs(out[30 * W + x]! - level)).toBeLessThan(0.3);
  },
);

test("what is one value stays it, to the last bit nearly, and nothing leaves its range", () => {
  const flat = smoothRegions(new Float32Array(W * H).fill(-3), W, H, OPTIONS);
  for (const v of flat) expect(v).toBeCloseTo(-3, 4);
  const rnd = random(8);
  const values = Float32Array.from({ length: W * H }, () => 8 * rnd() - 6);
  for (const v of smoothRegions(values, W, H, OPTIONS)) expect(v > -6.01 && v < 2.01).toBe(true);
});

test.each([
  [1, 1],
  [1, 9],
  [9, 1],
])("a plane of %i x %i", (w, h) => {
  const values = Float32Array.from({ length: w * h }, (_, i) => i * 0.1);
  expect(smoothRegions(values, w, h, OPTIONS).every(Number.isFinite)).toBe(true);
});
