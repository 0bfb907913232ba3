import type { Level } from "./sphereLevels";
import { clamp } from "../math/clamp";
import { solveSymmetric } from "../math/solveSymmetric";
import { correlationOf, type Correlation } from "./correlate";

export const SAMPLE_AREA = 24;
/** Turns and stretches are believed to be of a tenth or so, against the weight of the samples. */
const AFFINE_PRIOR = 500;

/** A step as small as this, px, is the last. */
const SETTLED_PX = 0.03;

/** First frame's px to second frame's px, from their first corners: two rows of three. */
export type Affine = [number, number, number, number, number, number];

/**
 * Gauss-Newton for the affine map under which the second frame's values fit the first's best, held
 * to small rolls and shears: turning a tilted camera rolls the picture.
 */
export function refine(a: Level, b: Level, start: Affine, rounds: number): Fit | undefined {
  let map: Affine = [...start];
  const X = a.w / 2;
  const Y = a.h / 2;
  const limit = (v: number): number => clamp(v, -3, 3);
  for (let round = 0; round < rounds; round++) {
    const { m, g, n } = equations(a, b, map);
    if (n < Math.max(12, a.w * a.h * 0.05)) break;
    for (const [p, rest] of [
      [0, map[0] - 1],
      [1, map[1]],
      [3, map[3]],
      [4, map[4] - 1],
    ] as const) {
      m[p]![p]! += AFFINE_PRIOR;
      g[p]! -= AFFINE_PRIOR * rest;
    }
    for (let p = 0; p < 6; p++) {
      m[p]![p]! += 1e-6 * n;
      for (let q = 0; q < p; q++) m[p]![q] = m[q]![p]!;
    }
    const d = solveSymmetric(m, g);
    if (!d) break;
    // the step is about the middle
    const still =
      Math.hypot(d[2]!, d[5]!) < SETTLED_PX &&
      Math.hypot(d[0]!, d[1]!, d[3]!, d[4]!) * X < SETTLED_PX;
    map = [
      map[0] + d[0]!,
      map[1] + d[1]!,
      map[2] + limit(d[2]!) - d[0]! * X - d[1]! * Y,
      map[3] + d[3]!,
      map[4] + d[4]!,
      map[5] + limit(d[5]!) - d[3]! * X - d[4]! * Y,
    ];
    if (still) break;
  }
  return fit(a, b, map);
}

/**
 * Walks over the pixels of the first frame that both show well exposed: the second's place, weights
 * and values.
 */
export const at = { i: 0, u: 0, v: 0 };
/** Walks to the place of the first frame's px in the second; false where one shows nothing well. */
export function place(a: Level, b: Level, m: Affine, x: number, y: number): boolean {
  if (!a.valid[y * a.w + x]) return false;
  const px = m[0] * x + m[1] * y + m[2];
  const py = m[3] * x + m[4] * y + m[5];
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  if (ix < 0 || iy < 0 || ix >= b.w - 1 || iy >= b.h - 1) return false;
  const i = iy * b.w + ix;
  if (!(b.valid[i]! & b.valid[i + 1]! & b.valid[i + b.w]! & b.valid[i + b.w + 1]!)) return false;
  at.i = i;
  at.u = px - ix;
  at.v = py - iy;
  return true;
}

/** The second frame's value at the place that was walked to last. */
export function valueAt(b: Level): number {
  const { i, u, v } = at;
  return (
    (b.value[i]! * (1 - u) + b.value[i + 1]! * u) * (1 - v) +
    (b.value[i + b.w]! * (1 - u) + b.value[i + b.w + 1]! * u) * v
  );
}

/**
 * The normal equations of one step; sums in variables of their own, since all of grouping's time
 * goes here.
 */
function equations(a: Level, b: Level, map: Affine): { m: number[][]; g: number[]; n: number } {
  const { w: aw, h: ah, value: av, valid: aValid } = a;
  const { w, h, value, valid } = b;
  const [m0, m1, m2, m3, m4, m5] = map;
  const cx = aw / 2;
  const cy = ah / 2;
  let n = 0;
  let axx = 0;
  let axy = 0;
  let ax = 0;
  let bxx = 0;
  let bxy = 0;
  let bx = 0;
  let ayy = 0;
  let ay = 0;
  let byy = 0;
  let by = 0;
  let a1 = 0;
  let b1 = 0;
  let cxx = 0;
  let cxy = 0;
  let c_x = 0;
  let cyy = 0;
  let c_y = 0;
  let c1 = 0;
  let dx = 0;
  let dy = 0;
  let d1 = 0;
  let fx = 0;
  let fy = 0;
  let f1 = 0;
  for (let y = 0; y < ah; y++)
    for (let x = 0, at = y * aw; x < aw; x++, at++) {
      if (!aValid[at]) continue;
      const px = m0 * x + m1 * y + m2;
      const py = m3 * x + m4 * y + m5;
      const ix = Math.floor(px);
      const iy = Math.floor(py);
      if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) continue;
      const i = iy * w + ix;
      if (!(valid[i]! & valid[i + 1]! & valid[i + w]! & valid[i + w + 1]!)) continue;
      const u = px - ix;
      const v = py - iy;
      const p00 = value[i]!;
      const p01 = value[i + 1]!;
      const p10 = value[i + w]!;
      const p11 = value[i + w + 1]!;
      const upper = p01 - p00;
      const lower = p11 - p10;
      const gx = upper * (1 - v) + lower * v;
      const gy = (p10 - p00) * (1 - u) + (p11 - p01) * u;
      const e = av[at]! - (p00 + upper * u) * (1 - v) - (p10 + lower * u) * v;
      const k = 1 / (0.3 + Math.abs(e));
      const X = x - cx;
      const Y = y - cy;
      const xx = k * gx * gx;
      const xy = k * gx * gy;
      const yy = k * gy * gy;
      const ex = k * gx * e;
      const ey = k * gy * e;
      const XX = X * X;
      const XY = X * Y;
      const YY = Y * Y;
      // products of the slope along x, of both, and along y, with the powers of the place
      axx += xx * XX;
      axy += xx * XY;
      ax += xx * X;
      ayy += xx * YY;
      ay += xx * Y;
      a1 += xx;
      bxx += xy * XX;
      bxy += xy * XY;
      bx += xy * X;
      byy += xy * YY;
      by += xy * Y;
      b1 += xy;
      cxx += yy * XX;
      cxy += yy * XY;
      c_x += yy * X;
      cyy += yy * YY;
      c_y += yy * Y;
      c1 += yy;
      dx += ex * X;
      dy += ex * Y;
      d1 += ex;
      fx += ey * X;
      fy += ey * Y;
      f1 += ey;
      n++;
    }
  return {
    n,
    g: [dx, dy, d1, fx, fy, f1],
    m: [
      [axx, axy, ax, bxx, bxy, bx],
      [0, ayy, ay, bxy, byy, by],
      [0, 0, a1, bx, by, b1],
      [0, 0, 0, cxx, cxy, c_x],
      [0, 0, 0, 0, cyy, c_y],
      [0, 0, 0, 0, 0, c1],
    ],
  };
}

export interface Fit extends Correlation {
  map: Affine;
}
function fit(a: Level, b: Level, map: Affine): Fit | undefined {
  let n = 0;
  let sa = 0;
  let sb = 0;
  let saa = 0;
  let sbb = 0;
  let sab = 0;
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++) {
      if (!place(a, b, map, x, y)) continue;
      const s = a.value[y * a.w + x]!;
      const t = valueAt(b);
      n++;
      sa += s;
      sb += t;
      saa += s * s;
      sbb += t * t;
      sab += s * t;
    }
  const correlation = correlationOf({ n, sa, sb, saa, sbb, sab }, a.w * a.h);
  return correlation && { map, ...correlation };
}
