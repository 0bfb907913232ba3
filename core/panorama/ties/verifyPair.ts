import { random } from "../../math/random";
import { rayOf, type Camera, type LensFit } from "../camera";
import { absoluteOrientation, orientationOfTwo } from "../../math/rotation";
import { dot, unit } from "../../math/vector";
import { clamp } from "../../math/clamp";

/**
 * The same thing in two frames, px of the full-size frames. Where it was measured how exactly: the
 * inverse of the covariance of its error in the first frame, px^-2, upper triangle by rows.
 */
export type Tie = [
  ax: number,
  ay: number,
  bx: number,
  by: number,
  xx?: number,
  xy?: number,
  yy?: number,
];
/**
 * Two frames that show the same: matched points in px of the full-size frames, and the matrix that
 * leads directions in b's camera to those in a's.
 */
export interface VerifiedPair {
  a: number;
  b: number;
  points: Tie[];
  leads: number[];
  rmsPx: number;
}
/** Matches that agree, by their places in the list. */
export type Verified = Pick<VerifiedPair, "leads" | "rmsPx"> & { inliers: number[] };

type Lens = LensFit & Pick<Camera, "width" | "height" | "lens">;
/**
 * Matches agree within this share of the focal length; through a fisheye lens whose distortion is
 * not known yet, which bends far more towards its rim, within the second.
 */
const MAX_MISS_SHARE = 0.0045;
const MAX_MISS_SHARE_FISHEYE = 0.012;
/**
 * Matches that have to agree, and more for each that was asked: by chance some may, the more of
 * them there are. Fewer do where the turn is as was to be expected.
 */
export const UNEXPECTED = { least: 8, share: 0.22 };
export const EXPECTED = { least: 6, share: 0.12 };
/** Draws at most, and how likely the right ones may be missed. */
const ROUNDS = 500;
const MISS_PROBABILITY = 1e-4;
const withinOf = ({ lens, distortion }: Lens): number =>
  lens && lens !== "rectilinear" && distortion.every((k) => k === 0)
    ? MAX_MISS_SHARE_FISHEYE
    : MAX_MISS_SHARE;

/**
 * Whether matches of two frames agree with a camera that only turned, for a given focal length: two
 * matches hold a turn; the one that most others agree with is refined on all of them.
 *
 * @param draws  of two matches, at most
 * @see Fischler and Bolles, "Random sample consensus", 1981; Brown and Lowe, "Automatic panoramic
 *   image stitching using invariant features", IJCV 2007 (how many inliers tell a match from
 *   chance)
 */
export function verifyPair(
  matches: readonly VerifiedPair["points"][number][],
  lensA: Lens,
  lensB: Lens,
  seed: number,
  draws = ROUNDS,
  { least, share } = UNEXPECTED,
): Verified | undefined {
  const n = matches.length;
  if (n < 6) return undefined;
  const A = matches.map((m) => unit(rayOf(lensA, m[0], m[1])));
  const B = matches.map((m) => unit(rayOf(lensB, m[2], m[3])));
  const rnd = random(seed);
  const limit = Math.max(withinOf(lensA), withinOf(lensB)) ** 2;
  const flatA = Float64Array.from(A.flat());
  const flatB = Float64Array.from(B.flat());
  let best: { turn: number[]; count: number } | undefined;
  const off = (turn: readonly number[], i: number): number => missedBy(turn, flatA, flatB, i);
  for (let round = 0, enough = draws; round < enough; round++) {
    const i = Math.floor(rnd() * n);
    const j = Math.floor(rnd() * n);
    const apart = dot(A[i]!, A[j]!);
    if (i === j || Math.abs(apart - dot(B[i]!, B[j]!)) > 0.01 || apart > 0.9998) continue;
    const turn = orientationOfTwo(B[i]!, B[j]!, A[i]!, A[j]!);
    const toBeat = best?.count ?? 0;
    const count = agreeing(turn, flatA, flatB, limit, toBeat);
    if (count <= toBeat) continue;
    best = { turn, count };
    // by then two that agree with the others were drawn at once, all but surely
    enough = clamp(
      Math.log(MISS_PROBABILITY) / Math.log(1 - Math.min(0.9, count / n) ** 2),
      40,
      draws,
    );
  }
  if (!best || best.count < 6) return undefined;
  let { turn } = best;
  let inliers: number[] = [];
  for (let k = 0; k < 4; k++) {
    const next = matches.map((_, i) => i).filter((i) => off(turn, i) < limit);
    if (next.length < 6) return undefined;
    inliers = next;
    turn = absoluteOrientation(
      inliers.map((i) => B[i]!),
      inliers.map((i) => A[i]!),
    );
  }
  // and they must not all lie in one spot
  if (inliers.length < least + share * n || inliers.length < 9) return undefined;
  const spreadOf = (v: number[]): number => {
    const m = v.reduce((s, x) => s + x, 0) / v.length;
    return Math.sqrt(v.reduce((s, x) => s + (x - m) ** 2, 0) / v.length);
  };
  if (
    Math.max(
      spreadOf(inliers.map((i) => matches[i]![0])),
      spreadOf(inliers.map((i) => matches[i]![1])),
    ) <
    0.02 * lensA.width
  )
    return undefined;
  return {
    inliers,
    leads: turn,
    rmsPx:
      Math.sqrt(inliers.reduce((s, i) => s + off(turn, i), 0) / inliers.length) * lensA.focalPx,
  };
}

/** Squared distance of a match's two directions, once b's are turned. */
function missedBy(turn: readonly number[], A: Float64Array, B: Float64Array, i: number): number {
  const k = i * 3;
  const x = B[k]!;
  const y = B[k + 1]!;
  const z = B[k + 2]!;
  return (
    (turn[0]! * x + turn[1]! * y + turn[2]! * z - A[k]!) ** 2 +
    (turn[3]! * x + turn[4]! * y + turn[5]! * z - A[k + 1]!) ** 2 +
    (turn[6]! * x + turn[7]! * y + turn[8]! * z - A[k + 2]!) ** 2
  );
}

/**
 * How many matches agree with a turn; given up as soon as it can no longer win. By far the most
 * frequent question: a function of its own is compiled once.
 */
function agreeing(
  turn: readonly number[],
  A: Float64Array,
  B: Float64Array,
  limit: number,
  toBeat: number,
): number {
  const n = A.length / 3;
  let count = 0;
  for (let k = 0; k < n && count + n - k > toBeat; k++)
    if (missedBy(turn, A, B, k) < limit) count++;
  return count;
}
