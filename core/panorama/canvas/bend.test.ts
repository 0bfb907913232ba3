import { bentBy, bentPlace, flatPlace, type Bend } from "./bend";

const columns = 6;
const rows = 4;
const at = (f: (u: number, v: number) => number): number[] =>
  Array.from({ length: (columns + 1) * (rows + 1) }, (_, k) =>
    f((k % (columns + 1)) / columns, Math.floor(k / (columns + 1)) / rows),
  );
const bend: Bend = {
  columns,
  rows,
  x: at((u, v) => u + 0.03 * Math.sin(Math.PI * u) * v),
  y: at((u, v) => v + 0.04 * Math.sin(Math.PI * v) * Math.cos(3 * u)),
};

test("vertices lie where the mesh says, and places between them between those", () => {
  for (const [i, j] of [
    [0, 0],
    [3, 2],
    [6, 4],
  ] as const) {
    const [x, y] = flatPlace(bend, i / columns, j / rows);
    expect(x).toBeCloseTo(bend.x[j * (columns + 1) + i]!, 6);
    expect(y).toBeCloseTo(bend.y[j * (columns + 1) + i]!, 6);
  }
  const [x] = flatPlace(bend, 0.5 / columns, 0);
  expect(x).toBeCloseTo((bend.x[0]! + bend.x[1]!) / 2, 6);
  // beyond the borders it is the border's place
  expect(flatPlace(bend, -1, 2)).toEqual(flatPlace(bend, 0, 1));
});

test("the way back leads to where one came from", () => {
  for (const [u, v] of [
    [0.1, 0.1],
    [0.5, 0.7],
    [0.93, 0.4],
  ] as const) {
    const back = bentPlace(bend, ...flatPlace(bend, u, v));
    expect(back[0]).toBeCloseTo(u, 4);
    expect(back[1]).toBeCloseTo(v, 4);
  }
});

test("half of a bend moves places half as far, and none of it not at all", () => {
  const half = bentBy(bend, 0.5);
  const none = bentBy(bend, 0);
  for (const [u, v] of [
    [0.25, 0.5],
    [0.6, 0.8],
  ] as const) {
    const whole = flatPlace(bend, u, v);
    const part = flatPlace(half, u, v);
    const flat = flatPlace(none, u, v);
    expect(flat[0]).toBeCloseTo(u, 9);
    expect(part[0] - u).toBeCloseTo((whole[0] - u) / 2, 9);
    expect(part[1] - v).toBeCloseTo((whole[1] - v) / 2, 9);
  }
});
