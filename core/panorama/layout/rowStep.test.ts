import { multiply, transpose } from "../../math/matrix3";
import { lookingAt } from "../../../simulate/sweep";
import { alongRow } from "./rowStep";
import type { VerifiedPair } from "../ties/verifyPair";

/**
 * Directions in b's camera to those in a's, for cameras that look so many degrees right, up and
 * rolled.
 */
const pair = (
  a: number,
  b: number,
  from: readonly [number, number, number],
  to: readonly [number, number, number],
): VerifiedPair => ({
  a,
  b,
  points: [],
  rmsPx: 0,
  leads: multiply(transpose(lookingAt(...from)), lookingAt(...to)),
});
const row: [number, number, number][] = [
  [0, 0, 0.5],
  [24, 1, -0.8],
  [47, -1, 0.4],
  [72, 0.5, 1],
  [95, -0.6, -0.5],
  [120, 0, 0],
];
const strong = (...places: number[]): VerifiedPair[] =>
  places.map((a) => pair(a, a + 1, row[a]!, row[a + 1]!));

test("neighbours of which few matches agree are believed where they turn as the row does", () => {
  const asked: number[] = [];
  const found = alongRow(strong(0, 1, 3), 6, (a, b) => {
    asked.push(a);
    return pair(a, b, row[a]!, row[b]!);
  });
  expect(asked).toEqual([2, 4]);
  expect(found.map((p) => [p.a, p.b])).toEqual([
    [2, 3],
    [4, 5],
  ]);
});

test("and not where they turn otherwise, roll, or where nothing holds them", () => {
  const of = (to: [number, number, number] | undefined) =>
    alongRow(strong(0, 1, 3), 5, (a, b) => (a === 2 && to ? pair(a, b, row[2]!, to) : undefined));
  expect(of([47 + 12, -1, 0])).toEqual([]);
  expect(of([47 - 24, -1, 0])).toEqual([]);
  expect(of([72, 14, 0])).toEqual([]);
  expect(of([72, 0, 15])).toEqual([]);
  expect(of(undefined)).toEqual([]);
  expect(of([71, 1, 1])).toHaveLength(1);
});

test("two turns are no row, nor are turns of which each is another", () => {
  expect(alongRow(strong(0, 1), 6, (a, b) => pair(a, b, row[a]!, row[b]!))).toEqual([]);
  const any = [
    pair(0, 1, [0, 0, 0], [24, 0, 0]),
    pair(1, 2, [0, 0, 0], [-60, 20, 0]),
    pair(2, 3, [0, 0, 0], [3, -50, 80]),
  ];
  expect(alongRow(any, 6, (a, b) => pair(a, b, row[a]!, row[b]!))).toEqual([]);
});
