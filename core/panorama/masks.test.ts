import { random } from "../simulate/random";
import { within, type Outline } from "./masks";

const square: Outline = [[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]], crescent: Outline = [[0, 0], [1, 0], [1, 1], [0.5, 0.2], [0, 1]];

test("inside and outside of a square and of a line that bends inwards", () => {
  expect([within(square, 0.5, 0.5), within(square, 0.1, 0.5), within(square, 0.5, 0.9), within(square, 0.79, 0.21)]).toEqual([true, false, false, true]);
  expect([within(crescent, 0.1, 0.5), within(crescent, 0.5, 0.5), within(crescent, 0.9, 0.5), within(crescent, 0.5, 0.1)]).toEqual([true, false, true, true]);
});

test("the share of places inside is the outline's area, however it is turned round", () => {
  const rnd = random(4), area = (o: Outline): number => Math.abs(o.reduce((s, [x, y], i) => { const [u, v] = o[(i + 1) % o.length]!; return s + (x * v - u * y) / 2; }, 0));
  for (const o of [square, crescent, [...crescent].reverse()]) {
    let n = 0;
    for (let i = 0; i < 20000; i++) if (within(o, rnd(), rnd())) n++;
    expect(Math.abs(n / 20000 - area(o))).toBeLessThan(0.015);
  }
});
