import { solveSymmetric } from "../align/solveSymmetric";
import { multiply } from "../raster/matrix3";
import { centreOf, seen, shownBy, turn, type Camera, type Vector } from "./camera";
import { reprojection, type Reprojection } from "./reprojection";
import { offStraight, type StraightLine } from "./straightLines";
import { median } from "../median";
import { type Tie, type VerifiedPair } from "./verifyPair";

/** Radians that a camera is likely to lean before a plane. */
const TILT_SPREAD = 0.3;

export interface Bundled {
  cameras: Camera[];
  /** RMS of what is left in each frame, px */ rmsPx: number[];
  /** of each pair, of each of its points, px */ errors: number[][];
}

/**
 * A round that lowers the cost by less than this share of it is the last: what is left is far below
 * the noise of the points.
 */
const ENOUGH = 1e-5;
/** Errors above this count less and less (Huber), px of a frame 4000 px long. */
const HUBER = 2.5;
/**
 * Shared by all frames of a lens: log of the focal length, two terms of distortion, and the centre
 * in shares of the long edge. How far each may be from its first guess.
 */
const SHARED_SPREAD = { focalKnown: 0.04, focalFree: 3, k1: 0.15, k2: 0.08, centre: 0.003 };

/**
 * Turns all cameras, and finds their lenses, so that matched points meet: Levenberg-Marquardt over
 * reprojection errors with a robust loss, and what is straight is so. The first camera of the list
 * stays. Cameras that all stand before one plane are moved as well.
 *
 * @see Triggs et al., "Bundle adjustment - a modern synthesis", 1999; Brown and Lowe, IJCV 2007
 */
export function bundle(
  start: readonly Camera[],
  pairs: readonly VerifiedPair[],
  lenses: {
    /** the lens of each camera, counted from 0 */ of: readonly number[];
    focalKnown: boolean;
    /** whether their centres are looked for */ centreFree?: boolean;
  },
  rounds = 30,
  lines: readonly StraightLine[] = [],
): Bundled {
  let cameras = start.map((c) => ({
    ...c,
    rotation: [...c.rotation],
    distortion: [...c.distortion] as Camera["distortion"],
  }));
  const n = cameras.length;
  const free = cameras.every((c) => c.offset) ? 6 : 3;
  const shared = free * n;
  const ids = [...new Set(lenses.of)];
  const first = ids.map((id) => lenses.of.indexOf(id));
  const own = lenses.centreFree ? 5 : 3;
  const lensAt = lenses.of.map((id) => shared + own * ids.indexOf(id));
  const size = shared + own * ids.length;
  const guess = first.map((i) => ({
    log: Math.log(cameras[i]!.focalPx),
    centre: centreOf(cameras[i]!),
  }));
  const long = Math.max(cameras[0]!.width, cameras[0]!.height);
  const unitPx = long / 4000;
  const huber = HUBER * unitPx;
  const weightOf = tieWeights(pairs);
  const cost = (cs: readonly Camera[]): number => {
    let s = 0;
    for (const p of pairs)
      for (const m of p.points) {
        const [ex, ey] = errorOf(cs[p.a]!, cs[p.b]!, m);
        const [xx, xy, yy] = weightOf(m);
        const r = Math.sqrt(xx * ex * ex + 2 * xy * ex * ey + yy * ey * ey);
        s += r <= huber ? r * r : 2 * huber * r - huber * huber;
      }
    for (const l of lines)
      for (const e of offStraight(cs[l.frame]!, l.points)) {
        const r = Math.abs(e);
        s += LINE * (r <= huber ? r * r : 2 * huber * r - huber * huber);
      }
    return (
      s +
      tilts(cs[0]!).reduce((t, v) => t + ((v / TILT_SPREAD) * unitPx) ** 2, 0) +
      first.reduce(
        (all, i, lens) =>
          all +
          priors(cs[i]!, lens).reduce(
            (t, { value, spread }) => t + ((value / spread) * unitPx) ** 2,
            0,
          ),
        0,
      )
    );
  };
  const priors = (c: Camera, lens: number): { value: number; spread: number }[] => [
    {
      value: Math.log(c.focalPx) - guess[lens]!.log,
      spread: lenses.focalKnown ? SHARED_SPREAD.focalKnown : SHARED_SPREAD.focalFree,
    },
    { value: c.distortion[0], spread: SHARED_SPREAD.k1 },
    { value: c.distortion[1], spread: SHARED_SPREAD.k2 },
    ...(own > 3
      ? centreOf(c).map((v, k) => ({
          value: (v - guess[lens]!.centre[k]!) / long,
          spread: SHARED_SPREAD.centre,
        }))
      : []),
  ];
  /**
   * how far the first camera looks down and to the right of straight at the plane: two looks at it
   * may say little of that
   */
  const tilts = (c: Camera): number[] => (free > 3 ? [-c.rotation[5]!, c.rotation[2]!] : []);
  /** the lens's own, or those of both lenses */
  const lensPlaces = (a: number, b: number): number[] =>
    (lenses.of[a] === lenses.of[b] ? [lensAt[a]!] : [lensAt[a]!, lensAt[b]!]).flatMap((at) =>
      Array.from({ length: own }, (_, k) => at + k),
    );
  let lambda = 1e-3;
  let now = cost(cameras);
  for (let round = 0; round < rounds; round++) {
    const A = Array.from({ length: size }, () => new Array<number>(size).fill(0));
    const b = new Array<number>(size).fill(0);
    for (const p of pairs) {
      const each = Array.from({ length: free }, (_, k) => k);
      const places = [
        ...each.map((k) => free * p.a + k),
        ...each.map((k) => free * p.b + k),
        ...lensPlaces(p.a, p.b),
      ];
      const count = places.length;
      // the pair's own part of the equations, which many points enter and which is laid into them
      // once
      const H = new Float64Array(count * count);
      const g = new Float64Array(count);
      const met = reprojection(
        cameras[p.a]!,
        cameras[p.b]!,
        own,
        lenses.of[p.a] === lenses.of[p.b],
      );
      for (const m of p.points) addPoint(H, g, met, m, weightOf(m), huber);
      for (let i = 0; i < count; i++) {
        for (let j = 0; j < count; j++)
          A[places[i]!]![places[j]!]! += H[Math.max(i, j) * count + Math.min(i, j)]!;
        b[places[i]!]! += g[i]!;
      }
    }
    for (const l of lines) addLine(A, b, cameras[l.frame]!, l, lensAt[l.frame]!, huber);
    first.forEach((i, lens) =>
      priors(cameras[i]!, lens).forEach(({ value, spread }, k) => {
        const w = (unitPx / spread) ** 2;
        const at = lensAt[i]! + k;
        A[at]![at]! += w;
        b[at]! -= w * value;
      }),
    );
    tilts(cameras[0]!).forEach((v, k) => {
      const w = (unitPx / TILT_SPREAD) ** 2;
      A[k]![k]! += w;
      b[k]! -= w * v;
    });
    // the first camera stays; before a plane it may yet lean
    for (let k = free > 3 ? 2 : 0; k < free; k++) A[k]![k]! += 1e12;
    let better = false;
    for (let attempt = 0; attempt < 6 && !better; attempt++) {
      const step = solveSymmetric(
        A.map((r, i) => r.map((v, j) => (i === j ? v * (1 + lambda) + 1e-9 : v))),
        b,
      );
      const next =
        step &&
        cameras.map((c, i): Camera => ({
          ...c,
          ...moved(c, step.slice(free * i, free * (i + 1))),
          focalPx: c.focalPx * Math.exp(Math.max(-0.3, Math.min(0.3, step[lensAt[i]!]!))),
          distortion: [
            c.distortion[0] + step[lensAt[i]! + 1]!,
            c.distortion[1] + step[lensAt[i]! + 2]!,
            c.distortion[2],
          ],
          ...(own > 3 && {
            centre: centreOf(c).map((v, k) => v + step[lensAt[i]! + 3 + k]! * long) as [
              number,
              number,
            ],
          }),
        }));
      const then = next ? cost(next) : Infinity;
      if (next && then < now) {
        better = true;
        const gain = (now - then) / now;
        cameras = next;
        now = then;
        lambda = Math.max(1e-9, lambda / 6);
        if (gain < ENOUGH) round = rounds;
      } else lambda *= 8;
    }
    if (!better) break;
  }
  const errors = pairs.map((p) =>
    p.points.map((m) => Math.hypot(...errorOf(cameras[p.a]!, cameras[p.b]!, m))),
  );
  const rmsPx = cameras.map((_, i) => {
    const own = pairs.flatMap((p, k) => (p.a === i || p.b === i ? errors[k]! : []));
    return own.length ? Math.sqrt(own.reduce((s, e) => s + e * e, 0) / own.length) : 0;
  });
  return { cameras, rmsPx, errors };
}

type Weight = readonly [xx: number, xy: number, yy: number];
const PLAIN: Weight = [1, 0, 1];

/**
 * What the two parts of a tie's error weigh, by how exactly it was measured; 1 in the middle. A tie
 * of which that is not known weighs so, too.
 */
function tieWeights(pairs: readonly VerifiedPair[]): (tie: Tie) => Weight {
  const measured = pairs.flatMap((p) =>
    p.points.flatMap(([, , , , xx, , yy]) => (xx === undefined ? [] : [(xx + yy!) / 2])),
  );
  const middle = median(measured);
  return middle > 0
    ? ([, , , , xx, xy, yy]) =>
        xx === undefined ? PLAIN : [xx / middle, xy! / middle, yy! / middle]
    : () => PLAIN;
}

/**
 * Adds what a point says to its pair's equations; one that is not seen at all says nothing of where
 * to turn.
 */
function addPoint(
  H: Float64Array,
  g: Float64Array,
  { at, error, across, down }: Reprojection,
  m: Tie,
  [xx, xy, yy]: Weight,
  huber: number,
): void {
  if (!at(m)) return;
  const ex = error[0]!;
  const ey = error[1]!;
  const r = Math.sqrt(xx * ex * ex + 2 * xy * ex * ey + yy * ey * ey);
  const w = r <= huber ? 1 : huber / r;
  const count = g.length;
  for (let i = 0; i < count; i++) {
    const wx = w * (xx * across[i]! + xy * down[i]!);
    const wy = w * (xy * across[i]! + yy * down[i]!);
    for (let j = 0; j <= i; j++) H[i * count + j]! += wx * across[j]! + wy * down[j]!;
    g[i]! -= wx * ex + wy * ey;
  }
}

/**
 * How much a point of an edge counts against a tie: it says half as much, and its neighbours err
 * with it.
 */
const LINE = 0.15;
/**
 * Small changes of a lens's logarithm of the focal length and its two terms of distortion, by which
 * slopes are found.
 */
const SMALL = 1e-5;

/** Adds what an edge says of its lens to the equations. */
function addLine(
  A: number[][],
  b: number[],
  camera: Camera,
  { points }: StraightLine,
  at: number,
  huber: number,
): void {
  const off = offStraight(camera, points);
  const [k1, k2, k3] = camera.distortion;
  const slopes = [
    { ...camera, focalPx: camera.focalPx * Math.exp(SMALL) },
    { ...camera, distortion: [k1 + SMALL, k2, k3] as Camera["distortion"] },
    { ...camera, distortion: [k1, k2 + SMALL, k3] as Camera["distortion"] },
  ].map((c) => offStraight(c, points).map((e, i) => (e - off[i]!) / SMALL));
  off.forEach((e, i) => {
    const w = LINE * (Math.abs(e) <= huber ? 1 : huber / Math.abs(e));
    for (let p = 0; p < 3; p++) {
      for (let q = 0; q < 3; q++) A[at + p]![at + q]! += w * slopes[p]![i]! * slopes[q]![i]!;
      b[at + p]! -= w * slopes[p]![i]! * e;
    }
  });
}

/** Where b's point is seen by a, less where a has it, px. */
function errorOf(a: Camera, b: Camera, m: VerifiedPair["points"][number]): [number, number] {
  const p = seen(a, shownBy(b, m[2], m[3]));
  return p ? [p[0] - m[0], p[1] - m[1]] : [FAR, FAR];
}
/** Px by which a point is off that is not seen at all. */
const FAR = 1e3;

/** A camera turned by the first three, and put elsewhere before its plane by the others. */
function moved(c: Camera, by: readonly number[]): Camera {
  const rotation = multiply(turn(by.slice(0, 3)), c.rotation);
  return by.length > 3
    ? {
        ...c,
        rotation,
        offset: { ...c.offset!, by: c.offset!.by.map((v, k) => v + by[3 + k]!) as Vector },
      }
    : { ...c, rotation };
}
