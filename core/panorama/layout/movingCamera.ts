// Frames of something flat, taken from places along it: a facade, a floor, a painted wall, a page
// too large for one frame.
import { apply, invert, multiply, type Matrix3 } from "../../math/matrix3";
import { random } from "../../math/random";
import { rayOf, shownBy, rotated, type Camera } from "../camera";
import { rotationFromVector } from "../../math/rotation";
import { dot, cross, unit, type Vector } from "../../math/vector";
import { homographyOf, type Point } from "../../math/homography";
import type { Verified, VerifiedPair } from "../ties/verifyPair";
import type { CameraMotion } from "./cameraMotion";

/**
 * The plane lies across the view, one distance ahead of where the first camera stands; nearer to
 * its horizon than this (cosine) nothing is believed.
 */
const NORMAL: Vector = [0, 0, 1];
const MIN_HORIZON_COSINE = 0.05;
/**
 * Matches agree within this share of the focal length; how many more than chance have to, and what
 * share of all.
 */
const MAX_MISS_SHARE = 0.0045;
const MIN_MATCHES = 12;
const MIN_AGREEING_SHARE = 0.25;
const ROUNDS = 1200;
/**
 * Halves of the whole plane, in distances, that are seen from where the picture is drawn: it has to
 * be seen whole on one plane.
 */
const PLANE_HALF_WIDTH = 0.7;

/** Places on a camera's image plane, one focal length ahead, of what its pixels show. */
const ahead = (c: Parameters<typeof rayOf>[0], x: number, y: number): Point => {
  const [a, b, z] = rayOf(c, x, y);
  return [a / z, b / z];
};

/**
 * Whether matches of two frames agree with two looks at one plane: four hold a homography; the one
 * that most others agree with is fitted to all of them.
 *
 * @returns the homography from b's image plane to a's as `leads`
 * @see Fischler and Bolles, "Random sample consensus", 1981
 */
export function verifyFlat(
  matches: readonly VerifiedPair["points"][number][],
  lensA: Parameters<typeof rayOf>[0],
  lensB: Parameters<typeof rayOf>[0],
  seed: number,
): Verified | undefined {
  const n = matches.length;
  const all = matches.map((m) => ({
    from: ahead(lensB, m[2], m[3]),
    to: ahead(lensA, m[0], m[1]),
  }));
  const rnd = random(seed);
  if (n < MIN_MATCHES) return undefined;
  const flat = Float64Array.from(all.flatMap(({ from, to }) => [...from, ...to]));
  /** Squared distance of a match's two places, by far the most frequent question here. */
  const off = (h: readonly number[], k: number): number => {
    const x = flat[4 * k]!;
    const y = flat[4 * k + 1]!;
    const z = 1 / (h[6]! * x + h[7]! * y + h[8]!);
    return (
      ((h[0]! * x + h[1]! * y + h[2]!) * z - flat[4 * k + 2]!) ** 2 +
      ((h[3]! * x + h[4]! * y + h[5]!) * z - flat[4 * k + 3]!) ** 2
    );
  };
  const agreeing = (h: readonly number[]): number[] =>
    all.flatMap((_, k) => (off(h, k) < MAX_MISS_SHARE ** 2 ? [k] : []));
  let best: number[] = [];
  for (let round = 0; round < ROUNDS && !(round > 60 && best.length > 0.8 * n); round++) {
    const four = [0, 1, 2, 3].map(() => Math.floor(rnd() * n));
    const h = new Set(four).size === 4 ? homographyOf(four.map((k) => all[k]!)) : undefined;
    if (!h || !plausible(h)) continue;
    let count = 0;
    // given up as soon as it can no longer win
    for (let k = 0; k < n && count + n - k > best.length; k++)
      if (off(h, k) < MAX_MISS_SHARE ** 2) count++;
    if (count > best.length) best = agreeing(h);
  }
  let leads: number[] | undefined;
  for (let round = 0; round < 4 && best.length >= MIN_MATCHES; round++) {
    leads = homographyOf(best.map((k) => all[k]!));
    if (!leads || !plausible(leads)) return undefined;
    best = agreeing(leads);
  }
  if (!leads || best.length < MIN_MATCHES + MIN_AGREEING_SHARE * n) return undefined;
  const spread = (axis: 0 | 1): number => {
    const v = best.map((k) => all[k]!.to[axis]);
    const m = v.reduce((s, x) => s + x, 0) / v.length;
    return Math.sqrt(v.reduce((s, x) => s + (x - m) ** 2, 0) / v.length);
  };
  // a line of matches holds no plane
  if (Math.max(spread(0), spread(1)) < 0.03 || Math.min(spread(0), spread(1)) < 0.004)
    return undefined;
  return {
    inliers: best,
    leads,
    rmsPx: Math.sqrt(best.reduce((s, k) => s + off(leads, k), 0) / best.length) * lensA.focalPx,
  };
}

/** Neither mirrored nor folded within the frame, nor far larger or smaller. */
function plausible(h: Matrix3): boolean {
  const size = (x: number, y: number): number => {
    const z = h[6]! * x + h[7]! * y + h[8]!;
    return z <= 0
      ? -1
      : (h[0]! * (h[4]! * h[8]! - h[5]! * h[7]!) -
          h[1]! * (h[3]! * h[8]! - h[5]! * h[6]!) +
          h[2]! * (h[3]! * h[7]! - h[4]! * h[6]!)) /
          z ** 3;
  };
  return [
    [0, 0],
    [-0.3, -0.3],
    [0.3, -0.3],
    [-0.3, 0.3],
    [0.3, 0.3],
  ].every(([x, y]) => {
    const s = size(x!, y!);
    return s > 0.05 && s < 20;
  });
}

/**
 * Turn and place of a camera from how it sees the plane: the homography from the plane's places to
 * its image plane (Zhang 2000).
 */
function cameraOf(view: Matrix3, lens: Camera): Camera {
  const middle = apply(invert(view), [0, 0, 1]);
  const G = middle[2]! < 0 ? view.map((v) => -v) : view;
  const column = (k: number): Vector => [G[k]!, G[3 + k]!, G[6 + k]!];
  const size = 2 / (Math.hypot(...column(0)) + Math.hypot(...column(1)));
  const x = unit(column(0));
  const lean = dot(x, column(1));
  const y = unit(column(1).map((v, k) => v - lean * x[k]!));
  const rotation = [...x, ...y, ...cross(x, y)];
  return {
    ...lens,
    rotation,
    offset: {
      by: apply(
        rotation,
        column(2).map((v) => v * size),
      ).map((v, k) => NORMAL[k]! - v) as Vector,
      normal: NORMAL,
      reach: MIN_HORIZON_COSINE,
    },
  };
}
/** The homography from the plane's places to a camera's image plane. */
const viewOf = ({ rotation: r, offset }: Camera): number[] => {
  const [tx, ty, tz] = offset!.by;
  return multiply(
    [r[0]!, r[3]!, r[6]!, r[1]!, r[4]!, r[7]!, r[2]!, r[5]!, r[8]!],
    [1, 0, -tx, 0, 1, -ty, 0, 0, 1 - tz],
  );
};

/**
 * The plane turned so that the frames stand upright on it, and drawn from a place far enough before
 * its middle that all of it lies well ahead.
 */
function upright(cameras: readonly (Camera | undefined)[]): (Camera | undefined)[] {
  const placed = cameras.filter((c): c is Camera => c !== undefined);
  const right = placed.reduce((s, { rotation: r }) => [s[0]! + r[0]!, s[1]! + r[3]!], [0, 0]);
  const level = rotationFromVector([0, 0, -Math.atan2(right[1]!, right[0]!)]);
  const level0 = placed.map((c) => rotated(c, level));
  const seen = level0.flatMap((c) =>
    [
      [0, 0],
      [c.width, 0],
      [0, c.height],
      [c.width, c.height],
    ]
      .map(([x, y]) => shownBy(c, x!, y!))
      .filter((d) => d[2] > MIN_HORIZON_COSINE * Math.hypot(...d))
      .map((d) => [d[0] / d[2], d[1] / d[2]] as const),
  );
  const span = (k: 0 | 1): [number, number] => [
    Math.min(...seen.map((p) => p[k])),
    Math.max(...seen.map((p) => p[k])),
  ];
  const [[x0, x1], [y0, y1]] = [span(0), span(1)];
  const far = Math.max(1, (x1 - x0) / 2 / PLANE_HALF_WIDTH, (y1 - y0) / 2 / PLANE_HALF_WIDTH);
  const from: Vector = [(x0 + x1) / 2, (y0 + y1) / 2, 1 - far];
  return cameras.map((c) => {
    const l = c && rotated(c, level);
    return (
      l && {
        ...l,
        offset: { ...l.offset!, by: l.offset!.by.map((v, k) => (v - from[k]!) / far) as Vector },
      }
    );
  });
}

/** Cameras along a plane: each is placed by how a placed one's view of it is led to its own. */
export const MOVING: CameraMotion = {
  verify: verifyFlat,
  first: (lens) => ({
    ...lens,
    offset: { by: [0, 0, 0], normal: NORMAL, reach: MIN_HORIZON_COSINE },
  }),
  beside: (old, leads, lens) => cameraOf(multiply(invert(leads), viewOf(old)), lens),
  leads: (points, ca, cb) =>
    points.length < 4
      ? undefined
      : homographyOf(
          points.map((p) => ({ from: ahead(cb, p[2], p[3]), to: ahead(ca, p[0], p[1]) })),
        ),
  upright,
};
