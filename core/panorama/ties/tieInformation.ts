import type { Jacobian } from "./tiePatch";

/** The normal equations of a patch's shift in the second frame. */
export interface NormalMatrix {
  xx: number;
  xy: number;
  yy: number;
}

/**
 * Noise of the smoothed planes is shared by so many samples: 1 over the sum of squares of the
 * smoothing's weights.
 */
const SAMPLES_A_NOISE = 18;
/**
 * Px of the planes by which a fit errs that leaves no residual: sampling between pixels, and a patch
 * that is bent and not only stretched.
 */
const LEAST_ERROR_PX = 0.03;

/**
 * How exactly the fit of a patch is known: the inverse of the covariance of its place in the first
 * frame, px^-2 of the full-size frame, upper triangle by rows.
 *
 * @param normal    the normal equations of its shift in the second frame
 * @param residual  mean square of what is left
 * @param scale     full-size px a px of the planes
 */
export function tieInformation(
  { xx, xy, yy }: NormalMatrix,
  residual: number,
  jacobian: Jacobian,
  scale: number,
): [xx: number, xy: number, yy: number] {
  const determinant = xx * yy - xy * xy;
  const noise = (SAMPLES_A_NOISE * residual) / determinant;
  const least = LEAST_ERROR_PX ** 2;
  // covariance of the shift in the second frame
  const cxx = noise * yy + least;
  const cxy = -noise * xy;
  const cyy = noise * xx + least;
  const all = (cxx * cyy - cxy * cxy) * scale * scale;
  const [ixx, ixy, iyy] = [cyy / all, -cxy / all, cxx / all];
  // and its inverse in the first frame: transposed Jacobian, information, Jacobian
  const [a, b, c, d] = jacobian;
  const [top, right] = [ixx * a + ixy * c, ixx * b + ixy * d];
  const [left, bottom] = [ixy * a + iyy * c, ixy * b + iyy * d];
  return [a * top + c * left, a * right + c * bottom, b * right + d * bottom];
}
