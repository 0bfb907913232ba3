import { solveSymmetric } from "./solveSymmetric";

export type Point = readonly [number, number];

/**
 * The homography that leads places to others, by least squares on four or more; undefined where
 * they do not hold one.
 */
export function homographyOf(pairs: readonly { from: Point; to: Point }[]): number[] | undefined {
  const A = Array.from({ length: 8 }, () => new Array<number>(8).fill(0));
  const b = new Array<number>(8).fill(0);
  for (const {
    from: [x, y],
    to: [u, v],
  } of pairs)
    for (const [row, value] of [
      [[x, y, 1, 0, 0, 0, -u * x, -u * y], u],
      [[0, 0, 0, x, y, 1, -v * x, -v * y], v],
    ] as const) {
      row.forEach((p, r) => {
        b[r]! += p * value;
        row.forEach((q, c) => {
          A[r]![c]! += p * q;
        });
      });
    }
  const h = solveSymmetric(A, b);
  return h && [...h, 1];
}
