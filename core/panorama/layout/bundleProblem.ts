import { addLine, addTie, LINE_WEIGHT } from "./bundleEquations";
import { multiply } from "../../math/matrix3";
import { centreOf, seen, shownBy, type Camera } from "../camera";
import { rotationFromVector } from "../../math/rotation";
import { type Vector } from "../../math/vector";
import { reprojection } from "../canvas/reprojection";
import { offStraight, type StraightLine } from "../level/straightLines";
import { tieWeights } from "../ties/tieWeights";
import type { Tie, VerifiedPair } from "../ties/verifyPair";
import { clamp } from "../../math/clamp";

/** The lenses of a bundle adjustment. */
export interface BundleLenses {
  /** the lens of each camera, counted from 0 */
  of: readonly number[];
  focalKnown: boolean;
  /** whether where their axes meet the frame is looked for */
  centreFree?: boolean;
}

/** What a bundle adjustment minimises. */
export interface BundleProblem {
  cost(cameras: readonly Camera[]): number;
  /** the normal equations of a small step of all unknowns */
  equations(cameras: readonly Camera[]): { matrix: number[][]; right: number[] };
  /** the cameras after such a step */
  moved(cameras: readonly Camera[], step: readonly number[]): Camera[];
}

/** Errors above this count less and less (Huber), px of a frame 4000 px long. */
const HUBER_PX = 2.5;
/** Radians that a camera is likely to lean before a plane. */
const TILT_SPREAD = 0.3;
/**
 * Shared by all frames of a lens: log of the focal length, two terms of distortion, and the centre
 * in shares of the long edge. How far each may be from its first guess.
 */
const SHARED_SPREAD = { focalKnown: 0.04, focalFree: 3, k1: 0.15, k2: 0.08, centre: 0.003 };
/** What holds an unknown that must not move. */
const FIXED_WEIGHT = 1e12;
/** The longest step of the logarithm of a focal length. */
const LONGEST_FOCAL_STEP = 0.3;

/** Something expected to be about zero, within its spread. */
interface Prior {
  value: number;
  spread: number;
}

/** The unknowns: of each camera its rotation, or its pose before a plane; then those of each lens. */
export function bundleProblem(
  start: readonly Camera[],
  pairs: readonly VerifiedPair[],
  lenses: BundleLenses,
  lines: readonly StraightLine[],
): BundleProblem {
  const ofCamera = start.every((camera) => camera.offset) ? 6 : 3;
  const flat = ofCamera > 3;
  const ofLens = lenses.centreFree ? 5 : 3;
  const ids = [...new Set(lenses.of)];
  /** the first camera of each lens, and the place of each camera's lens among the unknowns */
  const firstOf = ids.map((id) => lenses.of.indexOf(id));
  const shared = ofCamera * start.length;
  const lensAt = lenses.of.map((id) => shared + ofLens * ids.indexOf(id));
  const size = shared + ofLens * ids.length;
  const guess = firstOf.map((i) => ({
    log: Math.log(start[i]!.focalPx),
    centre: centreOf(start[i]!),
  }));
  const long = Math.max(start[0]!.width, start[0]!.height);
  const unitPx = long / 4000;
  const huber = HUBER_PX * unitPx;
  const weightOf = tieWeights(pairs);

  const robust = (r: number): number => (r <= huber ? r * r : 2 * huber * r - huber * huber);
  const costOf = ({ value, spread }: Prior): number => ((value / spread) * unitPx) ** 2;
  const lensPriors = (camera: Camera, lens: number): Prior[] => {
    const focal = lenses.focalKnown ? SHARED_SPREAD.focalKnown : SHARED_SPREAD.focalFree;
    const priors = [
      { value: Math.log(camera.focalPx) - guess[lens]!.log, spread: focal },
      { value: camera.distortion[0], spread: SHARED_SPREAD.k1 },
      { value: camera.distortion[1], spread: SHARED_SPREAD.k2 },
    ];
    if (ofLens === 3) return priors;
    const off = centreOf(camera).map((v, k) => (v - guess[lens]!.centre[k]!) / long);
    return [...priors, ...off.map((value) => ({ value, spread: SHARED_SPREAD.centre }))];
  };
  /**
   * How far the first camera looks down and to the right of straight at the plane: two looks at it
   * may say little of that.
   */
  const tiltPriors = ({ rotation }: Camera): Prior[] =>
    flat ? [-rotation[5]!, rotation[2]!].map((value) => ({ value, spread: TILT_SPREAD })) : [];
  /** places of the unknowns that a pair's errors depend on */
  const placesOf = (a: number, b: number): number[] => {
    const run = (from: number, count: number): number[] =>
      Array.from({ length: count }, (_, k) => from + k);
    const lensPlaces = lenses.of[a] === lenses.of[b] ? [lensAt[a]!] : [lensAt[a]!, lensAt[b]!];
    return [
      ...run(ofCamera * a, ofCamera),
      ...run(ofCamera * b, ofCamera),
      ...lensPlaces.flatMap((at) => run(at, ofLens)),
    ];
  };

  const tieCost = (cameras: readonly Camera[]): number => {
    let sum = 0;
    for (const { a, b, points } of pairs)
      for (const tie of points) {
        const [ex, ey] = errorOf(cameras[a]!, cameras[b]!, tie);
        const [xx, xy, yy] = weightOf(tie);
        sum += robust(Math.sqrt(xx * ex * ex + 2 * xy * ex * ey + yy * ey * ey));
      }
    for (const { frame, points } of lines)
      for (const e of offStraight(cameras[frame]!, points))
        sum += LINE_WEIGHT * robust(Math.abs(e));
    return sum;
  };

  return {
    cost(cameras) {
      const tilt = tiltPriors(cameras[0]!).reduce((sum, p) => sum + costOf(p), 0);
      const ofLenses = firstOf.reduce(
        (all, i, lens) =>
          all + lensPriors(cameras[i]!, lens).reduce((sum, p) => sum + costOf(p), 0),
        0,
      );
      return tieCost(cameras) + tilt + ofLenses;
    },
    equations(cameras) {
      const matrix = Array.from({ length: size }, () => new Array<number>(size).fill(0));
      const right = new Array<number>(size).fill(0);
      for (const { a, b, points } of pairs) {
        const places = placesOf(a, b);
        const count = places.length;
        // the pair's own part of the equations: many points enter it, and it is added to the whole
        // once
        const own = { matrix: new Float64Array(count * count), right: new Float64Array(count) };
        const oneLens = lenses.of[a] === lenses.of[b];
        const slopes = reprojection(cameras[a]!, cameras[b]!, ofLens, oneLens);
        for (const tie of points) addTie(own, slopes, tie, weightOf(tie), huber);
        for (let i = 0; i < count; i++) {
          for (let j = 0; j < count; j++)
            matrix[places[i]!]![places[j]!]! +=
              own.matrix[Math.max(i, j) * count + Math.min(i, j)]!;
          right[places[i]!]! += own.right[i]!;
        }
      }
      for (const line of lines)
        addLine({ matrix, right }, cameras[line.frame]!, line, lensAt[line.frame]!, huber);
      const addPrior = (at: number, { value, spread }: Prior): void => {
        const weight = (unitPx / spread) ** 2;
        matrix[at]![at]! += weight;
        right[at]! -= weight * value;
      };
      firstOf.forEach((i, lens) =>
        lensPriors(cameras[i]!, lens).forEach((prior, k) => addPrior(lensAt[i]! + k, prior)),
      );
      tiltPriors(cameras[0]!).forEach((prior, k) => addPrior(k, prior));
      // the first camera stays; before a plane it may yet lean
      for (let k = flat ? 2 : 0; k < ofCamera; k++) matrix[k]![k]! += FIXED_WEIGHT;
      return { matrix, right };
    },
    moved(cameras, step) {
      return cameras.map((camera, i): Camera => {
        const at = lensAt[i]!;
        const [k1, k2, k3] = camera.distortion;
        const focal = clamp(step[at]!, -LONGEST_FOCAL_STEP, LONGEST_FOCAL_STEP);
        const next: Camera = {
          ...posed(camera, step.slice(ofCamera * i, ofCamera * (i + 1))),
          focalPx: camera.focalPx * Math.exp(focal),
          distortion: [k1 + step[at + 1]!, k2 + step[at + 2]!, k3],
        };
        if (ofLens === 3) return next;
        const [x, y] = centreOf(camera);
        return { ...next, centre: [x + step[at + 3]! * long, y + step[at + 4]! * long] };
      });
    },
  };
}

/** Px by which a point is off that is not seen at all. */
const FAR_PX = 1e3;

/** Where the first camera sees the second one's point, less where it has it, px. */
export function errorOf(a: Camera, b: Camera, tie: Tie): [number, number] {
  const p = seen(a, shownBy(b, tie[2], tie[3]));
  return p ? [p[0] - tie[0], p[1] - tie[1]] : [FAR_PX, FAR_PX];
}

/** A camera rotated by the first three, and put elsewhere before its plane by the others. */
function posed(camera: Camera, by: readonly number[]): Camera {
  const rotation = multiply(rotationFromVector(by.slice(0, 3)), camera.rotation);
  if (by.length === 3) return { ...camera, rotation };
  const moved = camera.offset!.by.map((v, k) => v + by[3 + k]!) as Vector;
  return { ...camera, rotation, offset: { ...camera.offset!, by: moved } };
}
