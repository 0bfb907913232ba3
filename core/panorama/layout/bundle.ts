import { solveSymmetric } from "../../math/solveSymmetric";
import { bundleProblem, errorOf, type BundleLenses, type BundleProblem } from "./bundleProblem";
import type { Camera } from "../camera";
import type { StraightLine } from "../level/straightLines";
import type { VerifiedPair } from "../ties/verifyPair";

/** What a bundle adjustment found. */
export interface Bundled {
  cameras: Camera[];
  /** RMS of what is left in each frame, px */
  rmsPx: number[];
  /** of each pair, of each of its points, px */
  errors: number[][];
}

/** Rounds of a bundle adjustment, if it is not said. */
const ROUNDS = 30;

/**
 * Rotates all cameras, and finds their lenses, so that tie points meet and what is straight is so:
 * Levenberg-Marquardt over reprojection errors with a robust loss. The first camera of the list
 * stays. Cameras that all stand before one plane are moved as well.
 *
 * @see Triggs et al., "Bundle adjustment - a modern synthesis", 1999; Brown and Lowe, IJCV 2007
 */
export function bundle(
  start: readonly Camera[],
  pairs: readonly VerifiedPair[],
  lenses: BundleLenses,
  rounds = ROUNDS,
  lines: readonly StraightLine[] = [],
): Bundled {
  const copies = start.map((camera) => ({
    ...camera,
    rotation: [...camera.rotation],
    distortion: [...camera.distortion] as Camera["distortion"],
  }));
  const cameras = minimise(bundleProblem(copies, pairs, lenses, lines), copies, rounds);
  const errors = pairs.map(({ a, b, points }) =>
    points.map((tie) => Math.hypot(...errorOf(cameras[a]!, cameras[b]!, tie))),
  );
  const rmsPx = cameras.map((_, i) =>
    rootMeanSquare(pairs.flatMap(({ a, b }, k) => (a === i || b === i ? errors[k]! : []))),
  );
  return { cameras, rmsPx, errors };
}

const rootMeanSquare = (values: readonly number[]): number =>
  values.length ? Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length) : 0;

/**
 * A round that lowers the cost by less than this share of it is the last: what is left is far below
 * the noise of the points.
 */
const LEAST_GAIN = 1e-5;
/** Damping at first and at least, what a good step divides it by and a bad one multiplies it with. */
const DAMPING = { first: 1e-3, least: 1e-9, down: 6, up: 8 };
/** Dampings that are tried before a round is given up. */
const ATTEMPTS = 6;
/** Added to the diagonal, so that an unknown of which nothing tells does not make it singular. */
const REGULARISATION = 1e-9;

/**
 * The cameras of least cost.
 *
 * @see Marquardt, "An algorithm for least-squares estimation of nonlinear parameters", 1963
 */
function minimise(problem: BundleProblem, start: Camera[], rounds: number): Camera[] {
  let cameras = start;
  let cost = problem.cost(cameras);
  let damping = DAMPING.first;
  for (let round = 0; round < rounds; round++) {
    const { matrix, right } = problem.equations(cameras);
    let gain: number | undefined;
    for (let attempt = 0; attempt < ATTEMPTS && gain === undefined; attempt++) {
      const damped = matrix.map((row, i) =>
        row.map((v, j) => (i === j ? v * (1 + damping) + REGULARISATION : v)),
      );
      const step = solveSymmetric(damped, right);
      const next = step && problem.moved(cameras, step);
      const then = next ? problem.cost(next) : Infinity;
      if (!next || then >= cost) {
        damping *= DAMPING.up;
        continue;
      }
      gain = (cost - then) / cost;
      cameras = next;
      cost = then;
      damping = Math.max(DAMPING.least, damping / DAMPING.down);
    }
    if (gain === undefined || gain < LEAST_GAIN) break;
  }
  return cameras;
}
