import { apply, type Matrix3 } from "../raster/matrix3";

/** A frame's camera: looks along +z, x right, y down. */
export interface Camera {
  /** camera to world, row-major */
  rotation: number[];
  /** px of the full-size frame */
  focalPx: number;
  /** radial distortion r' = r (1 + k1 r^2 + k2 r^4 + k3 r^6), r = tan of the angle off the axis (Brown 1966) */
  distortion: [number, number, number];
  width: number; height: number;
}
export type Vector = [number, number, number];

/** Where a world direction is seen, in px; undefined behind the camera or beyond where the distortion turns back. */
export function seen(c: Camera, world: readonly number[]): [number, number] | undefined {
  const r = c.rotation, x = r[0]! * world[0]! + r[3]! * world[1]! + r[6]! * world[2]!, y = r[1]! * world[0]! + r[4]! * world[1]! + r[7]! * world[2]!, z = r[2]! * world[0]! + r[5]! * world[1]! + r[8]! * world[2]!;
  if (z <= 1e-6) return undefined;
  const a = x / z, b = y / z, q = a * a + b * b, [k1, k2, k3] = c.distortion;
  if (1 + q * (3 * k1 + q * (5 * k2 + q * 7 * k3)) <= 0) return undefined;
  const s = c.focalPx * (1 + q * (k1 + q * (k2 + q * k3)));
  return [c.width / 2 + a * s, c.height / 2 + b * s];
}

/** The direction in the camera's own frame that a pixel looks along, z = 1 (Newton's method on the radius). */
export function rayOf(c: Pick<Camera, "focalPx" | "distortion" | "width" | "height">, x: number, y: number): Vector {
  const a = (x - c.width / 2) / c.focalPx, b = (y - c.height / 2) / c.focalPx, d = Math.hypot(a, b), [k1, k2, k3] = c.distortion;
  if (!(k1 || k2 || k3) || d < 1e-12) return [a, b, 1];
  let r = d;
  for (let i = 0; i < 8; i++) { const q = r * r, slope = 1 + q * (3 * k1 + q * (5 * k2 + q * 7 * k3)); r -= (r * (1 + q * (k1 + q * (k2 + q * k3))) - d) / Math.max(0.2, slope); }
  return [(a * r) / d, (b * r) / d, 1];
}

export const worldRay = (c: Camera, x: number, y: number): Vector => unit(apply(c.rotation, rayOf(c, x, y)));
export const unit = ([x, y, z]: readonly number[]): Vector => { const n = Math.hypot(x!, y!, z!) || 1; return [x! / n, y! / n, z! / n]; };
export const cross = (a: readonly number[], b: readonly number[]): Vector => [a[1]! * b[2]! - a[2]! * b[1]!, a[2]! * b[0]! - a[0]! * b[2]!, a[0]! * b[1]! - a[1]! * b[0]!];
export const dot = (a: readonly number[], b: readonly number[]): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
export const transpose = (m: Matrix3): number[] => [m[0]!, m[3]!, m[6]!, m[1]!, m[4]!, m[7]!, m[2]!, m[5]!, m[8]!];

/** The turn about an axis by its length in radians (Rodrigues 1840). */
export function turn([x, y, z]: readonly number[]): number[] {
  const t = Math.hypot(x!, y!, z!);
  if (t < 1e-12) return [1, -z!, y!, z!, 1, -x!, -y!, x!, 1];
  const [a, b, c] = [x! / t, y! / t, z! / t], s = Math.sin(t), k = 1 - Math.cos(t);
  return [1 - k * (b * b + c * c), k * a * b - s * c, k * a * c + s * b, k * a * b + s * c, 1 - k * (a * a + c * c), k * b * c - s * a, k * a * c - s * b, k * b * c + s * a, 1 - k * (a * a + b * b)];
}

/** Degrees between two orientations. */
export function degreesApart(a: Matrix3, b: Matrix3): number {
  const trace = a.reduce((s, v, i) => s + v * b[i]!, 0);
  return (Math.acos(Math.min(1, Math.max(-1, (trace - 1) / 2))) * 180) / Math.PI;
}

/** The turn that carries the pair of unit directions p1, p2 to q1, q2, their middle and their plane held exactly (Black 1964). */
export function turnOfTwo(p1: Vector, p2: Vector, q1: Vector, q2: Vector): number[] {
  const axes = (a: Vector, b: Vector): [Vector, Vector, Vector] => { const m = unit([a[0] + b[0], a[1] + b[1], a[2] + b[2]]), n = unit(cross(a, b)); return [m, n, cross(m, n)]; };
  const [p, q] = [axes(p1, p2), axes(q1, q2)], out: number[] = [];
  for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) out.push(q[0][r]! * p[0][c]! + q[1][r]! * p[1][c]! + q[2][r]! * p[2][c]!);
  return out;
}

/**
 * The turn that best carries directions p to q, least squares (Horn, "Closed-form solution of absolute orientation using
 * unit quaternions", 1987; the largest eigenvector by shifted power iteration).
 */
export function bestTurn(p: readonly Vector[], q: readonly Vector[], weights?: readonly number[]): number[] {
  const S = new Array<number>(9).fill(0);
  p.forEach((a, i) => { const w = weights?.[i] ?? 1, b = q[i]!; for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) S[r * 3 + c]! += w * a[r]! * b[c]!; });
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = S as [number, number, number, number, number, number, number, number, number];
  const N = [[xx + yy + zz, yz - zy, zx - xz, xy - yx], [yz - zy, xx - yy - zz, xy + yx, zx + xz], [zx - xz, xy + yx, -xx + yy - zz, yz + zy], [xy - yx, zx + xz, yz + zy, -xx - yy + zz]];
  const shift = Math.max(...N.map((r) => r.reduce((s, v) => s + Math.abs(v), 0))) + 1e-12;
  // repeated squaring converges where plain iteration crawls
  let M = N.map((r, i) => r.map((v, j) => v + (i === j ? shift : 0)));
  for (let k = 0; k < 24; k++) {
    const top = Math.max(...M.map((r) => Math.max(...r.map(Math.abs))));
    M = M.map((r) => r.map((v) => v / top));
    M = M.map((r) => M.map((_, j) => r.reduce((s, v, l) => s + v * M[l]![j]!, 0)));
  }
  const column = M.map((_, j) => Math.hypot(...M.map((r) => r[j]!))), best = column.indexOf(Math.max(...column)), e = M.map((r) => r[best]!), n = Math.hypot(...e);
  const [w, x, y, z] = e.map((v) => v / n) as [number, number, number, number];
  return [w * w + x * x - y * y - z * z, 2 * (x * y - w * z), 2 * (x * z + w * y), 2 * (x * y + w * z), w * w - x * x + y * y - z * z, 2 * (y * z - w * x), 2 * (x * z - w * y), 2 * (y * z + w * x), w * w - x * x - y * y + z * z];
}
