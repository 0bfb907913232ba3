import { clamp } from "../../math/clamp";

/**
 * How a canvas is bent: where each vertex of a regular mesh over it lies on the flat one, in shares
 * of that, rows of columns + 1.
 */
export interface Bend {
  columns: number;
  rows: number;
  x: number[];
  y: number[];
  /** it goes all round */
  closed?: boolean;
}

/**
 * Where a place of the bent canvas, in shares of its width and height, lies on the flat one, in
 * shares of that.
 */
export function flatPlace(
  { columns, rows, x, y, closed }: Bend,
  given: number,
  v: number,
): [number, number] {
  // a full turn goes on beyond its sides
  const round = closed ? Math.floor(given) : 0;
  const u = given - round;
  const gx = clamp(u * columns, 0, columns - 1e-9);
  const gy = clamp(v * rows, 0, rows - 1e-9);
  const i = Math.floor(gx);
  const j = Math.floor(gy);
  const fx = gx - i;
  const fy = gy - j;
  const k = j * (columns + 1) + i;
  const l = k + columns + 1;
  const mix = (p: readonly number[]): number =>
    (p[k]! * (1 - fx) + p[k + 1]! * fx) * (1 - fy) + (p[l]! * (1 - fx) + p[l + 1]! * fx) * fy;
  return [mix(x) + round, mix(y)];
}

/**
 * The place on the bent canvas at which a place of the flat one is shown, both in shares
 * (fixed-point iteration; bends are gentle).
 */
export function bentPlace(bend: Bend, x: number, y: number): [number, number] {
  let u = x;
  let v = y;
  for (let i = 0; i < 12; i++) {
    const [a, b] = flatPlace(bend, u, v);
    u += x - a;
    v += y - b;
  }
  return [u, v];
}

/** The same bend by a part of it: 0 leaves the canvas flat. */
export const bentBy = ({ columns, rows, x, y, closed }: Bend, amount: number): Bend => ({
  columns,
  rows,
  ...(closed ? { closed } : {}),
  x: x.map((v, k) => (k % (columns + 1)) / columns + (v - (k % (columns + 1)) / columns) * amount),
  y: y.map(
    (v, k) =>
      Math.floor(k / (columns + 1)) / rows + (v - Math.floor(k / (columns + 1)) / rows) * amount,
  ),
});
