import { Heap } from "../../kernels/heap";
import { maskOfPart } from "./maskOfPart";
import type { JoinedShape } from "./part";
import { findSky, likenessOf, type MaskGrid } from "./shapeMasks";

const W = 120;
const H = 80;
const heap = Heap.local(4e6);

/** A grid of cells whose light and colour are given. */
function gridOf(
  of: (x: number, y: number) => { light: number; a?: number; b?: number; texture?: number },
): MaskGrid {
  const planes = { light: [], a: [], b: [], texture: [] } as Record<string, number[]>;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const { light, a = 0, b = 0, texture = 0.02 } = of(x, y);
      for (const [key, value] of Object.entries({ light, a, b, texture })) planes[key]!.push(value);
    }
  const plane = (key: string): Float32Array => Float32Array.from(planes[key]!);
  return {
    width: W,
    height: H,
    light: plane("light"),
    a: plane("a"),
    b: plane("b"),
    texture: plane("texture"),
    middle: -2,
  };
}
const plain = gridOf(() => ({ light: -2 }));

const part = (shapes: readonly JoinedShape[], more: object = {}) =>
  maskOfPart(heap, { shapes, inverted: false, feather: 0, ...more }, plain);
const square = (x0: number, y0: number, x1: number, y1: number): JoinedShape => ({
  type: "outline",
  joining: "add",
  points: [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ],
});
const left = square(0, 0, 0.5, 1);
const top = square(0, 0, 1, 0.5);
const at = (mask: Float32Array, x: number, y: number): number =>
  mask[Math.floor(y * H) * W + Math.floor(x * W)]!;
/** Upper left, upper right, lower left, lower right. */
const corners = (mask: Float32Array): number[] =>
  [
    [0.25, 0.25],
    [0.75, 0.25],
    [0.25, 0.75],
    [0.75, 0.75],
  ].map(([x, y]) => at(mask, x!, y!));

test("shapes add, subtract, intersect, and the whole is inverted", () => {
  expect(corners(part([left, top]))).toEqual([1, 1, 1, 0]);
  expect(corners(part([left, { ...top, joining: "subtract" }]))).toEqual([0, 0, 1, 0]);
  expect(corners(part([left, { ...top, joining: "intersect" }]))).toEqual([1, 0, 0, 0]);
  expect(corners(part([left], { inverted: true }))).toEqual([0, 1, 0, 1]);
});

test("a part and its complement make the whole picture", () => {
  const shapes: JoinedShape[] = [
    {
      type: "ellipse",
      joining: "add",
      centre: [0.4, 0.5],
      radii: [0.3, 0.2],
      angle: 20,
      feather: 0.6,
    },
    { type: "gradient", joining: "subtract", from: [0, 0], to: [0.6, 0.7] },
  ];
  const mask = part(shapes, { feather: 0.05 });
  const rest = part(shapes, { feather: 0.05, inverted: true });
  for (let i = 0; i < mask.length; i++) {
    expect(mask[i]! + rest[i]!).toBeCloseTo(1, 5);
    expect(mask[i]! > -1e-5 && mask[i]! < 1 + 1e-5).toBe(true);
  }
});

test("a gradient is whole at its beginning, half in its middle, and nothing at its end", () => {
  const mask = part([{ type: "gradient", joining: "add", from: [0.2, 0.5], to: [0.8, 0.5] }]);
  expect([at(mask, 0.1, 0.5), at(mask, 0.9, 0.5)]).toEqual([1, 0]);
  expect(at(mask, 0.5, 0.2)).toBeCloseTo(0.5, 1);
});

const brush = (edgeAware: boolean): JoinedShape => ({
  type: "brush",
  joining: "add",
  points: [
    [0.42, 0.3],
    [0.45, 0.5],
    [0.47, 0.7],
  ],
  radius: 0.15,
  softness: 0.2,
  flow: 1,
  edgeAware,
});

test.each([
  ["light", { light: 0 }],
  ["colour", { light: -2, a: 0.1, b: -0.1 }],
])("the brush stays on the side of an edge of %s where it began", (_, right) => {
  const grid = gridOf((x) => (x < W / 2 ? { light: -2 } : right));
  const mask = maskOfPart(heap, { shapes: [brush(true)], inverted: false, feather: 0 }, grid);
  expect(at(mask, 0.45, 0.5)).toBeGreaterThan(0.9);
  expect(at(mask, 0.52, 0.5)).toBeLessThan(0.05);
  const free = maskOfPart(heap, { shapes: [brush(false)], inverted: false, feather: 0 }, grid);
  expect(at(free, 0.52, 0.5)).toBeGreaterThan(0.9);
});

test("a sample takes what is like it around there, and not what is far or unlike", () => {
  const grid = gridOf((x, y) => {
    const isRed = (x > 20 && x < 40 && y > 20 && y < 40) || x > 100;
    return isRed ? { light: -1.5, a: 0.12, b: 0.06 } : { light: -2 };
  });
  const like = likenessOf(grid, [0.25, 0.37]);
  expect(like.a).toBeCloseTo(0.12, 2);
  const shape: JoinedShape = {
    type: "sample",
    joining: "add",
    at: [0.25, 0.37],
    like,
    reach: 0.3,
    tolerance: 1,
  };
  const mask = maskOfPart(heap, { shapes: [shape], inverted: false, feather: 0 }, grid);
  expect(at(mask, 0.28, 0.4)).toBeGreaterThan(0.9);
  expect(at(mask, 0.28, 0.7)).toBeLessThan(0.05);
  expect(at(mask, 0.95, 0.4)).toBeLessThan(0.05);
});

test("ranges of tone and of colour", () => {
  const grid = gridOf((x) => ({ light: -6 + (8 * x) / W, a: x < W / 2 ? 0.1 : -0.1, b: 0 }));
  const mask = (shape: JoinedShape) =>
    maskOfPart(heap, { shapes: [shape], inverted: false, feather: 0 }, grid);
  const tones = mask({ type: "tones", joining: "add", from: -1, to: 1, fade: 0.5 });
  expect([at(tones, 0.5, 0.5), at(tones, 0.1, 0.5), at(tones, 0.9, 0.5)]).toEqual([1, 0, 0]);
  const reds = mask({ type: "colours", joining: "add", hue: 0, reach: 40, least: 0.02 });
  expect([at(reds, 0.25, 0.5), at(reds, 0.75, 0.5)]).toEqual([1, 0]);
});

test("a sky is found over a ridge, and none where there is none", () => {
  const outside = gridOf((x, y) =>
    y < 35 + 5 * Math.sin(x / 9)
      ? { light: 0.5 - y / 100, b: -0.05, a: -0.01, texture: 0.03 }
      : { light: -3, b: 0.05, a: -0.03, texture: 0.4 },
  );
  const sky = findSky(outside);
  expect(sky.sure).toBeGreaterThan(0.6);
  expect([at(sky.mask, 0.5, 0.2), at(sky.mask, 0.5, 0.8)]).toEqual([1, 0]);
  const room = gridOf((_, y) => ({ light: y < 40 ? -2.5 : -2, a: 0.02, b: 0.05, texture: 0.1 }));
  const none = findSky(room);
  expect(none.sure).toBeLessThan(0.3);
  expect(Math.max(...none.mask)).toBe(0);
});
