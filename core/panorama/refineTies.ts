import type { Heap } from "../../kernels/heap";
import { seen, shownBy, type Camera } from "./camera";
import type { TiePair } from "./geometry";
import type { Tie } from "./verifyPair";

/** A plane of log luminance of a reduced frame, smoothed, and its confidences. */
export interface LogPlane {
  log: number;
  confidence: number;
  w: number;
  h: number;
}

/**
 * Lays out what ties are refined on: log luminance smoothed over five px each way, its weights 1,
 * 2, 3, 2, 1. The slopes of a soft picture are mostly noise otherwise, which draws ties back to
 * where they were looked for first. What has no weight has no say.
 *
 * @param to  room for two planes, the confidences at the second
 */
export function tiePlane(heap: Heap, { log, confidence, w, h }: LogPlane, to: number): LogPlane {
  const n = w * h;
  const mark = heap.mark();
  heap.k.smoothWeighted(log, confidence, w, h, heap.alloc((w + 12) * 8), to);
  heap.f32(to + n * 4, n).set(heap.f32(confidence, n));
  heap.release(mark);
  return { log: to, confidence: to + n * 4, w, h };
}

/** Half the side of the compared patch, px of the reduced frame; steps of the fit. */
const REACH = 8;
const ROUNDS = 8;

/**
 * Moves the second point of every tie to where its surroundings fit those of the first best, to a
 * small part of a pixel: the patch is laid over by the cameras as far as they are known, then
 * shifted (Lucas and Kanade 1981), brightness left free. Ties that do not fit, or run away, are
 * dropped.
 *
 * @param scale  full-size px a px of the planes
 */
export function refineTies(
  heap: Heap,
  planes: readonly LogPlane[],
  cameras: readonly (Camera | undefined)[],
  pairs: readonly TiePair[],
  scale: number,
): TiePair[] {
  return pairs.flatMap((pair) => {
    const [ca, cb] = [cameras[pair.a], cameras[pair.b]];
    const refine = tieRefiner(
      heap,
      planes[pair.a]!,
      planes[pair.b]!,
      ca && cb ? [ca, cb] : undefined,
      scale,
    );
    if (!ca || !cb) return [];
    const points = pair.points.map(refine).filter((p): p is Tie => p !== undefined);
    return points.length >= 6 ? [{ a: pair.a, b: pair.b, points, errors: [] }] : [];
  });
}

/** How far round a place pointed at its counterpart is looked for, px of the reduced frame. */
const SEARCH = 24;

/**
 * The exact place in the second frame of what was pointed at in the first: where the surroundings
 * correlate best within some px of the place pointed at, then refined as other ties are. Without
 * cameras the frames are taken to be upright and of one scale.
 *
 * @returns undefined when nothing there fits clearly
 */
export function findTie(
  heap: Heap,
  A: LogPlane,
  B: LogPlane,
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  point: Tie,
): Tie | undefined {
  const LA = heap.f32(A.log, A.w * A.h);
  const VA = heap.f32(A.confidence, A.w * A.h);
  const LB = heap.f32(B.log, B.w * B.h);
  const VB = heap.f32(B.confidence, B.w * B.h);
  const laid = layOver(cameras, scale, point[0], point[1], point);
  const [u, v] = [Math.round(point[0] / scale - 0.5), Math.round(point[1] / scale - 0.5)];
  if (!laid) return undefined;
  const { J } = laid;
  const cx = point[2] / scale - 0.5;
  const cy = point[3] / scale - 0.5;
  let best: { score: number; dx: number; dy: number } | undefined;
  for (let dy = -SEARCH; dy <= SEARCH; dy++)
    for (let dx = -SEARCH; dx <= SEARCH; dx++) {
      let n = 0;
      let sa = 0;
      let sb = 0;
      let aa = 0;
      let bb = 0;
      let ab = 0;
      for (let j = -REACH; j <= REACH; j += 2)
        for (let i = -REACH; i <= REACH; i += 2) {
          const x = u + i;
          const y = v + j;
          const X = Math.round(cx + dx + J[0] * i + J[1] * j);
          const Y = Math.round(cy + dy + J[2] * i + J[3] * j);
          if (x < 0 || y < 0 || x >= A.w || y >= A.h || X < 0 || Y < 0 || X >= B.w || Y >= B.h)
            continue;
          const k = y * A.w + x;
          const q = Y * B.w + X;
          if (Math.min(VA[k]!, VB[q]!) < 0.05) continue;
          const a = LA[k]!;
          const b = LB[q]!;
          n++;
          sa += a;
          sb += b;
          aa += a * a;
          bb += b * b;
          ab += a * b;
        }
      if (n < 30) continue;
      const va = aa - (sa * sa) / n;
      const vb = bb - (sb * sb) / n;
      const score = va > 1e-4 * n && vb > 1e-4 * n ? (ab - (sa * sb) / n) / Math.sqrt(va * vb) : -1;
      if (!best || score > best.score) best = { score, dx, dy };
    }
  if (!best || best.score < 0.7) return undefined;
  return tieRefiner(
    heap,
    A,
    B,
    cameras,
    scale,
  )([point[0], point[1], (cx + best.dx + 0.5) * scale, (cy + best.dy + 0.5) * scale]);
}

/**
 * Noise of the smoothed planes is shared by so many samples: (sum of squares of the smoothing's
 * weights)^-1.
 */
const SAMPLES_A_NOISE = 18;
/**
 * Px of the planes by which a fit errs that nothing is left of: sampling between pixels, and a
 * patch that is bent and not only stretched.
 */
const LEAST_ERROR = 0.03;

/**
 * How exactly the fit of a patch is known: the inverse of the covariance of its place in the first
 * frame, px^-2 of the full-size frame.
 *
 * @param normal  the normal equations of its shift in the second frame
 * @param left    mean square of what is left
 * @param J       how steps in the first frame go in the second, by rows
 */
function certainty(
  { xx, xy, yy }: { xx: number; xy: number; yy: number },
  left: number,
  J: readonly [number, number, number, number],
  scale: number,
): [number, number, number] {
  // from the covariance of a shift in the second frame, with what no fit goes below, to that of one
  // in the first
  const det = xx * yy - xy * xy;
  const noise = (SAMPLES_A_NOISE * left) / det;
  const least = LEAST_ERROR ** 2;
  const cxx = noise * yy + least;
  const cxy = -noise * xy;
  const cyy = noise * xx + least;
  const all = (cxx * cyy - cxy * cxy) * scale * scale;
  const [ixx, ixy, iyy] = [cyy / all, -cxy / all, cxx / all];
  const rows = [
    ixx * J[0] + ixy * J[2],
    ixx * J[1] + ixy * J[3],
    ixy * J[0] + iyy * J[2],
    ixy * J[1] + iyy * J[3],
  ] as const;
  return [
    J[0] * rows[0] + J[2] * rows[2],
    J[0] * rows[1] + J[2] * rows[3],
    J[1] * rows[1] + J[3] * rows[3],
  ];
}

/**
 * Where the surroundings of a place of the first frame lie in the second, px of the reduced frames,
 * and how they are turned and stretched.
 */
function layOver(
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  ax: number,
  ay: number,
  [, , bx, by]: Tie,
):
  | { u: number; v: number; c: [number, number]; J: readonly [number, number, number, number] }
  | undefined {
  const u = Math.round(ax / scale - 0.5);
  const v = Math.round(ay / scale - 0.5);
  if (!cameras)
    return {
      u,
      v,
      c: [bx / scale - 0.5 - (ax / scale - 0.5 - u), by / scale - 0.5 - (ay / scale - 0.5 - v)],
      J: [1, 0, 0, 1],
    };
  const [ca, cb] = cameras;
  const over = (x: number, y: number): [number, number] | undefined => {
    const p = seen(cb, shownBy(ca, (x + 0.5) * scale, (y + 0.5) * scale));
    return p && [p[0] / scale - 0.5, p[1] / scale - 0.5];
  };
  const c = over(u, v);
  const ex = over(u + REACH, v);
  const ey = over(u, v + REACH);
  return c && ex && ey
    ? {
        u,
        v,
        c,
        J: [
          (ex[0] - c[0]) / REACH,
          (ey[0] - c[0]) / REACH,
          (ex[1] - c[1]) / REACH,
          (ey[1] - c[1]) / REACH,
        ],
      }
    : undefined;
}

function tieRefiner(
  heap: Heap,
  A: LogPlane,
  B: LogPlane,
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
): (point: Tie) => Tie | undefined {
  const LA = heap.f32(A.log, A.w * A.h);
  const VA = heap.f32(A.confidence, A.w * A.h);
  const LB = heap.f32(B.log, B.w * B.h);
  const VB = heap.f32(B.confidence, B.w * B.h);
  return (point) => {
    const [ax, ay, bx, by] = point;
    const laid = layOver(cameras, scale, ax, ay, point);
    if (!laid) return undefined;
    const { u, v, c, J } = laid;
    if (u < REACH + 1 || v < REACH + 1 || u >= A.w - REACH - 1 || v >= A.h - REACH - 1)
      return undefined;
    // the matched place is nearer than what the cameras say, as long as they are rough
    let dx =
      bx / scale - 0.5 - (c[0] + J[0] * (ax / scale - 0.5 - u) + J[1] * (ay / scale - 0.5 - v));
    let dy =
      by / scale - 0.5 - (c[1] + J[2] * (ax / scale - 0.5 - u) + J[3] * (ay / scale - 0.5 - v));
    const [sx, sy] = [dx, dy];
    for (let round = 0; round < ROUNDS; round++) {
      let xx = 0;
      let xy = 0;
      let yy = 0;
      let x1 = 0;
      let y1 = 0;
      let n = 0;
      let xe = 0;
      let ye = 0;
      let e1 = 0;
      let ee = 0;
      let aa = 0;
      let a1 = 0;
      for (let j = -REACH; j <= REACH; j++)
        for (let i = -REACH; i <= REACH; i++) {
          const k = (v + j) * A.w + u + i;
          const px = c[0] + J[0] * i + J[1] * j + dx;
          const py = c[1] + J[2] * i + J[3] * j + dy;
          const X = Math.floor(px);
          const Y = Math.floor(py);
          if (X < 1 || Y < 1 || X >= B.w - 2 || Y >= B.h - 2) continue;
          const q = Y * B.w + X;
          const fx = px - X;
          const fy = py - Y;
          const w = Math.min(VA[k]!, VB[q]!);
          if (w < 0.05) continue;
          const top = LB[q]! * (1 - fx) + LB[q + 1]! * fx;
          const low = LB[q + B.w]! * (1 - fx) + LB[q + B.w + 1]! * fx;
          const value = top * (1 - fy) + low * fy;
          const gx = (LB[q + 1]! - LB[q]!) * (1 - fy) + (LB[q + B.w + 1]! - LB[q + B.w]!) * fy;
          const gy = low - top;
          const e = value - LA[k]!;
          xx += w * gx * gx;
          xy += w * gx * gy;
          yy += w * gy * gy;
          x1 += w * gx;
          y1 += w * gy;
          n += w;
          xe += w * gx * e;
          ye += w * gy * e;
          e1 += w * e;
          ee += w * e * e;
          aa += w * LA[k]! * LA[k]!;
          a1 += w * LA[k]!;
        }
      if (n < 40) return undefined;
      // brightness is taken out by centring
      const XX = xx - (x1 * x1) / n;
      const XY = xy - (x1 * y1) / n;
      const YY = yy - (y1 * y1) / n;
      const XE = xe - (x1 * e1) / n;
      const YE = ye - (y1 * e1) / n;
      const det = XX * YY - XY * XY;
      if (!(det > 0.02 * (XX + YY) ** 2) || XX + YY < 0.02) return undefined;
      const mx = -(YY * XE - XY * YE) / det;
      const my = -(XX * YE - XY * XE) / det;
      dx += Math.max(-1.5, Math.min(1.5, mx));
      dy += Math.max(-1.5, Math.min(1.5, my));
      if (Math.hypot(dx - sx, dy - sy) > 4) return undefined;
      if (Math.hypot(mx, my) < 0.01 || round === ROUNDS - 1) {
        const left = ee / n - (e1 / n) ** 2;
        const contrast = aa / n - (a1 / n) ** 2;
        // what the patch holds must be explained by far most
        if (Math.hypot(mx, my) > 0.1 || left > 0.2 * contrast + 4e-4) return undefined;
        return [
          (u + 0.5) * scale,
          (v + 0.5) * scale,
          (c[0] + dx + 0.5) * scale,
          (c[1] + dy + 0.5) * scale,
          ...certainty({ xx: XX, xy: XY, yy: YY }, left, J, scale),
        ];
      }
    }
    return undefined;
  };
}
