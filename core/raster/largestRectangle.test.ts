import { random } from "../math/random";
import { largestOfRatio, largestRectangle } from "./largestRectangle";

test.each([1, 2, 3])("no rectangle of ones is larger, seed %i", (seed) => {
  const rnd = random(seed);
  const w = 13;
  const h = 9;
  const mask = Uint8Array.from({ length: w * h }, () => (rnd() < 0.8 ? 1 : 0));
  const found = largestRectangle(mask, w, h);
  const full = (x: number, y: number, a: number, b: number): boolean => {
    for (let v = y; v < y + b; v++)
      for (let u = x; u < x + a; u++) if (!mask[v * w + u]) return false;
    return true;
  };
  let most = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let a = 1; x + a <= w; a++)
        for (let b = 1; y + b <= h; b++) if (full(x, y, a, b)) most = Math.max(most, a * b);
  expect(found.width * found.height).toBe(most);
  expect(full(found.x, found.y, found.width, found.height)).toBe(true);
});

test("an empty mask has none", () => {
  expect(largestRectangle(new Uint8Array(12), 4, 3)).toEqual({ x: 0, y: 0, width: 0, height: 0 });
});

test.each([
  [1, 1],
  [2, 1.5],
  [3, 0.4],
  [4, 2.35],
])("none of one shape is larger, seed %i, ratio %d", (seed, ratio) => {
  const rnd = random(seed);
  const w = 21;
  const h = 16;
  const mask = Uint8Array.from({ length: w * h }, () => (rnd() < 0.93 ? 1 : 0));
  const found = largestOfRatio(mask, w, h, ratio);
  const full = (x: number, y: number, a: number, b: number): boolean => {
    for (let v = y; v < y + b; v++)
      for (let u = x; u < x + a; u++) if (!mask[v * w + u]) return false;
    return true;
  };
  // the width of what has the ratio within so many cells
  let most = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let a = 1; x + a <= w; a++)
        for (let b = 1; y + b <= h; b++)
          if (full(x, y, a, b)) most = Math.max(most, Math.min(a, b * ratio));
  expect(Math.min(found.width, found.height * ratio)).toBeCloseTo(most, 9);
  expect(full(found.x, found.y, found.width, found.height)).toBe(true);
});

test("of equal ones that in the middle is taken, and of an empty mask none", () => {
  expect(largestOfRatio(new Uint8Array(30 * 10).fill(1), 30, 10, 1)).toEqual({
    x: 10,
    y: 0,
    width: 10,
    height: 10,
  });
  expect(largestOfRatio(new Uint8Array(12), 4, 3, 1)).toEqual({ x: 0, y: 0, width: 0, height: 0 });
});
