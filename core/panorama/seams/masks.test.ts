import * as v from "valibot";
import { random } from "../../math/random";
import { hiding, MaskSchema, type Part } from "./masks";

const outline = (points: Part["points"]): Part => ({ shape: "outline", points, radius: 0 });
const brush = (radius: number, ...points: Part["points"]): Part => ({
  shape: "brush",
  points,
  radius,
});
const square = outline([
  [0.2, 0.2],
  [0.8, 0.2],
  [0.8, 0.8],
  [0.2, 0.8],
]);
const crescent = outline([
  [0, 0],
  [1, 0],
  [1, 1],
  [0.5, 0.2],
  [0, 1],
]);
const UNIT = { width: 1, height: 1 };
const inside = (part: Part, ...places: [number, number][]): boolean[] =>
  places.map(([x, y]) => hiding([part], UNIT)(x, y));

test("inside and outside of a square and of a line that bends inwards", () => {
  expect(inside(square, [0.5, 0.5], [0.1, 0.5], [0.5, 0.9], [0.79, 0.21])).toEqual([
    true,
    false,
    false,
    true,
  ]);
  expect(inside(crescent, [0.1, 0.5], [0.5, 0.5], [0.9, 0.5], [0.5, 0.1])).toEqual([
    true,
    false,
    true,
    true,
  ]);
});

test("the share of places inside is the outline's area, however it is turned round, and a stroke's is that of its band", () => {
  const rnd = random(4);
  const area = ({ points: o }: Part): number =>
    Math.abs(
      o.reduce((s, [x, y], i) => {
        const [u, w] = o[(i + 1) % o.length]!;
        return s + (x * w - u * y) / 2;
      }, 0),
    );
  const share = (part: Part): number => {
    const hides = hiding([part], UNIT);
    let n = 0;
    for (let i = 0; i < 20000; i++) if (hides(rnd(), rnd())) n++;
    return n / 20000;
  };
  for (const o of [square, crescent, outline([...crescent.points].reverse())])
    expect(Math.abs(share(o) - area(o))).toBeLessThan(0.015);
  expect(
    Math.abs(share(brush(0.1, [0.2, 0.5], [0.5, 0.5], [0.8, 0.5])) - (0.6 * 0.2 + Math.PI * 0.01)),
  ).toBeLessThan(0.015);
  expect(Math.abs(share(brush(0.2, [0.5, 0.5])) - Math.PI * 0.04)).toBeLessThan(0.015);
});

test("a brush is round in px of a frame of any shape", () => {
  const hides = hiding([brush(0.1, [0.5, 0.5])], { width: 600, height: 200 });
  for (let a = 0; a < 360; a += 15)
    for (const [r, inside] of [
      [58, true],
      [62, false],
    ] as const)
      expect(
        hides(300 + r * Math.cos((a * Math.PI) / 180), 100 + r * Math.sin((a * Math.PI) / 180)),
      ).toBe(inside);
});

test("masks of older recipes are outlines; a line of two points hides nothing and is refused", () => {
  const old = {
    id: "m",
    frame: "a",
    on: true,
    points: [
      [0, 0],
      [1, 0],
      [1, 1],
    ],
  };
  expect(v.parse(MaskSchema, old)).toEqual({ ...old, shape: "outline", radius: 0 });
  expect(
    v.safeParse(MaskSchema, {
      ...old,
      points: [
        [0, 0],
        [1, 0],
      ],
    }).success,
  ).toBe(false);
  expect(
    v.safeParse(MaskSchema, { ...old, shape: "brush", radius: 0.02, points: [[0, 0]] }).success,
  ).toBe(true);
});
