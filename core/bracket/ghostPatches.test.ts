import { patchMask, withPatches, type GhostPatch } from "./ghostPatches";

const grid = { width: 80, height: 60, scale: 4 };
const square: GhostPatch = {
  id: "p",
  frame: "a.jpg",
  on: true,
  shape: "outline",
  points: [
    [0.25, 0.25],
    [0.75, 0.25],
    [0.75, 0.75],
    [0.25, 0.75],
  ],
  radius: 0,
  soft: 0.025,
};

test("an outline fills what it encloses, softly at its border", () => {
  const m = patchMask(square, grid);
  const at = (x: number, y: number): number => m[y * 80 + x]!;
  expect(at(40, 30)).toBeCloseTo(1, 5);
  expect(at(5, 5)).toBe(0);
  expect(at(20, 30)).toBeGreaterThan(0.3);
  expect(at(20, 30)).toBeLessThan(0.8);
});

test("a brush stroke covers its way at its radius", () => {
  const m = patchMask(
    {
      ...square,
      shape: "brush",
      points: [
        [0.2, 0.5],
        [0.8, 0.5],
      ],
      radius: 0.05,
      soft: 0,
    },
    grid,
  );
  expect(m[30 * 80 + 40]).toBe(1);
  expect(m[36 * 80 + 40]).toBe(0);
  const area = m.reduce((s, v) => s + v, 0);
  expect(area).toBeGreaterThan(48 * 8 * 0.95);
  expect(area).toBeLessThan(48 * 8 + Math.PI * 16 * 1.2);
});

test("within a patch one frame has all the weight and the others none; switched off it changes nothing", () => {
  const found = { ...grid, confidences: new Uint8Array(80 * 60).fill(90), share: 0.1 };
  const own = withPatches(found, ["id1", "a.jpg"], [square], grid)!;
  const other = withPatches(undefined, ["id2", "b.jpg"], [square], grid)!;
  expect(own.confidences[30 * 80 + 40]).toBe(255);
  expect(own.confidences[5]).toBe(90);
  expect(other.confidences[30 * 80 + 40]).toBe(0);
  expect(other.confidences[5]).toBe(255);
  expect(withPatches(found, ["x"], [{ ...square, on: false }], grid)).toBe(found);
});
