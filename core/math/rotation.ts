import type { Matrix3 } from "./matrix3";
import { type Vector, unit, cross } from "./vector";
import { clamp } from "./clamp";

/** The turn about an axis by its length in radians (Rodrigues 1840). */
export function rotationFromVector([x, y, z]: readonly number[]): number[] {
  const t = Math.hypot(x!, y!, z!);
  if (t < 1e-12) return [1, -z!, y!, z!, 1, -x!, -y!, x!, 1];
  const [a, b, c] = [x! / t, y! / t, z! / t];
  const s = Math.sin(t);
  const k = 1 - Math.cos(t);
  return [
    1 - k * (b * b + c * c),
    k * a * b - s * c,
    k * a * c + s * b,
    k * a * b + s * c,
    1 - k * (a * a + c * c),
    k * b * c - s * a,
    k * a * c - s * b,
    k * b * c + s * a,
    1 - k * (a * a + b * b),
  ];
}
/** Degrees between two orientations. */
export function degreesBetween(a: Matrix3, b: Matrix3): number {
  const trace = a.reduce((s, v, i) => s + v * b[i]!, 0);
  return (Math.acos(clamp((trace - 1) / 2, -1, 1)) * 180) / Math.PI;
}
/**
 * The turn that carries the pair of unit directions p1, p2 to q1, q2, their middle and their plane
 * held exactly (Black 1964).
 */
export function orientationOfTwo(p1: Vector, p2: Vector, q1: Vector, q2: Vector): number[] {
  const axes = (a: Vector, b: Vector): [Vector, Vector, Vector] => {
    const m = unit([a[0] + b[0], a[1] + b[1], a[2] + b[2]]);
    const n = unit(cross(a, b));
    return [m, n, cross(m, n)];
  };
  const [p, q] = [axes(p1, p2), axes(q1, q2)];
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++)
      out.push(q[0][r]! * p[0][c]! + q[1][r]! * p[1][c]! + q[2][r]! * p[2][c]!);
  return out;
}
/**
 * The turn that best carries directions p to q, least squares (Horn, "Closed-form solution of
 * absolute orientation using unit quaternions", 1987; the largest eigenvector by shifted power
 * iteration).
 */
export function absoluteOrientation(
  p: readonly Vector[],
  q: readonly Vector[],
  weights?: readonly number[],
): number[] {
  const S = new Array<number>(9).fill(0);
  p.forEach((a, i) => {
    const w = weights?.[i] ?? 1;
    const b = q[i]!;
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) S[r * 3 + c]! += w * a[r]! * b[c]!;
  });
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = S as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const N = [
    xx + yy + zz,
    yz - zy,
    zx - xz,
    xy - yx,
    yz - zy,
    xx - yy - zz,
    xy + yx,
    zx + xz,
    zx - xz,
    xy + yx,
    -xx + yy - zz,
    yz + zy,
    xy - yx,
    zx + xz,
    yz + zy,
    -xx - yy + zz,
  ];
  const shift =
    Math.max(
      ...[0, 4, 8, 12].map(
        (r) => Math.abs(N[r]!) + Math.abs(N[r + 1]!) + Math.abs(N[r + 2]!) + Math.abs(N[r + 3]!),
      ),
    ) + 1e-12;
  const M = dominant(N.map((v, i) => v + (i % 5 === 0 ? shift : 0)));
  const column = [0, 1, 2, 3].map((j) => Math.hypot(M[j]!, M[4 + j]!, M[8 + j]!, M[12 + j]!));
  const best = column.indexOf(Math.max(...column));
  const e = [M[best]!, M[4 + best]!, M[8 + best]!, M[12 + best]!];
  const n = Math.hypot(...e);
  const [w, x, y, z] = e.map((v) => v / n) as [number, number, number, number];
  return [
    w * w + x * x - y * y - z * z,
    2 * (x * y - w * z),
    2 * (x * z + w * y),
    2 * (x * y + w * z),
    w * w - x * x + y * y - z * z,
    2 * (y * z - w * x),
    2 * (x * z - w * y),
    2 * (y * z + w * x),
    w * w - x * x - y * y + z * z,
  ];
}
/**
 * A high power of a 4 x 4 matrix, but for its size: its columns are its largest eigenvector.
 * Repeated squaring converges where plain iteration crawls.
 */
export function dominant(start: readonly number[]): Float64Array {
  let M = Float64Array.from(start);
  let next = new Float64Array(16);
  for (let round = 0; round < 24; round++) {
    let top = 0;
    for (let k = 0; k < 16; k++) top = Math.max(top, Math.abs(M[k]!));
    for (let k = 0; k < 16; k++) M[k]! /= top;
    for (let r = 0; r < 16; r += 4)
      for (let c = 0; c < 4; c++)
        next[r + c] =
          M[r]! * M[c]! + M[r + 1]! * M[4 + c]! + M[r + 2]! * M[8 + c]! + M[r + 3]! * M[12 + c]!;
    [M, next] = [next, M];
  }
  return M;
}
