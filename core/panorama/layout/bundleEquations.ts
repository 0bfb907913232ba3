import type { Camera } from "../camera";
import type { Reprojection } from "../canvas/reprojection";
import { offStraight, type StraightLine } from "../level/straightLines";
import type { TieWeight } from "../ties/tieWeights";
import type { Tie } from "../ties/verifyPair";

/**
 * Adds what a tie says to its pair's equations, of which the lower triangle is kept. A tie that is
 * not seen at all says nothing of where to turn.
 *
 * @param huber  px above which an error counts less and less
 */
export function addTie(
  { matrix, right }: { matrix: Float64Array; right: Float64Array },
  { at, error, across, down }: Reprojection,
  tie: Tie,
  [xx, xy, yy]: TieWeight,
  huber: number,
): void {
  if (!at(tie)) return;
  const ex = error[0]!;
  const ey = error[1]!;
  const r = Math.sqrt(xx * ex * ex + 2 * xy * ex * ey + yy * ey * ey);
  const w = r <= huber ? 1 : huber / r;
  const count = right.length;
  for (let i = 0; i < count; i++) {
    const wx = w * (xx * across[i]! + xy * down[i]!);
    const wy = w * (xy * across[i]! + yy * down[i]!);
    for (let j = 0; j <= i; j++) matrix[i * count + j]! += wx * across[j]! + wy * down[j]!;
    right[i]! -= wx * ex + wy * ey;
  }
}

/**
 * How much a point of an edge counts against a tie: it says half as much, and its neighbours err
 * with it.
 */
export const LINE_WEIGHT = 0.15;
/**
 * Small changes of a lens's logarithm of the focal length and its two terms of distortion, by which
 * slopes are found.
 */
const DIFFERENCE_STEP = 1e-5;

/**
 * Adds what an edge says of its lens to the equations.
 *
 * @param at     place of the lens's first unknown
 * @param huber  px above which an error counts less and less
 */
export function addLine(
  { matrix, right }: { matrix: number[][]; right: number[] },
  camera: Camera,
  { points }: Pick<StraightLine, "points">,
  at: number,
  huber: number,
): void {
  const off = offStraight(camera, points);
  const [k1, k2, k3] = camera.distortion;
  const slopes = [
    { ...camera, focalPx: camera.focalPx * Math.exp(DIFFERENCE_STEP) },
    { ...camera, distortion: [k1 + DIFFERENCE_STEP, k2, k3] as Camera["distortion"] },
    { ...camera, distortion: [k1, k2 + DIFFERENCE_STEP, k3] as Camera["distortion"] },
  ].map((changed) => offStraight(changed, points).map((e, i) => (e - off[i]!) / DIFFERENCE_STEP));
  off.forEach((e, i) => {
    const w = LINE_WEIGHT * (Math.abs(e) <= huber ? 1 : huber / Math.abs(e));
    for (let p = 0; p < 3; p++) {
      for (let q = 0; q < 3; q++) matrix[at + p]![at + q]! += w * slopes[p]![i]! * slopes[q]![i]!;
      right[at + p]! -= w * slopes[p]![i]! * e;
    }
  });
}
