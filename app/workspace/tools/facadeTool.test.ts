import { clockwise } from "./facadeTool";

const square: [number, number][] = [
  [0.2, 0.2],
  [0.8, 0.25],
  [0.75, 0.7],
  [0.15, 0.8],
];

test.each([[[0, 1, 2, 3]], [[2, 0, 3, 1]], [[3, 2, 1, 0]], [[1, 3, 0, 2]]])(
  "corners clicked in the order %j are the same four sides",
  (order) => {
    expect(clockwise(order.map((i) => square[i]!))).toEqual(square);
  },
);
