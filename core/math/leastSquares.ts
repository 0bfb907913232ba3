import { solveSymmetric } from "./solveSymmetric";

/** By which an unknown is moved to find a slope. */
const STEP = 1e-6;
const MAX_ROUNDS = 30;
const FIRST_DAMPING = 1e-3;
const MOST_DAMPING = 1e9;
const SMALLEST_STEP = 1e-10;

const cost = (residuals: readonly number[]): number => residuals.reduce((sum, r) => sum + r * r, 0);

/**
 * The unknowns, a few, for which residuals have the least sum of squares near a start.
 *
 * @see Marquardt, "An algorithm for least-squares estimation of nonlinear parameters", 1963; slopes
 *   by differences
 */
export function leastSquares(
  residuals: (at: readonly number[]) => number[],
  start: readonly number[],
): number[] {
  let at = [...start];
  let now = residuals(at);
  let damping = FIRST_DAMPING;
  for (let round = 0; round < MAX_ROUNDS; round++) {
    const slopes = at.map((_, k) => {
      const moved = residuals(at.map((v, i) => (i === k ? v + STEP : v)));
      return moved.map((v, i) => (v - now[i]!) / STEP);
    });
    const normal = slopes.map((a, i) =>
      slopes.map((b, j) => {
        const product = a.reduce((sum, v, k) => sum + v * b[k]!, 0);
        return i === j ? product * (1 + damping) : product;
      }),
    );
    const downhill = slopes.map((a) => -a.reduce((sum, v, k) => sum + v * now[k]!, 0));
    const step = solveSymmetric(normal, downhill);
    if (!step) break;
    const next = at.map((v, i) => v + step[i]!);
    const then = residuals(next);
    if (cost(then) > cost(now)) {
      damping *= 10;
      if (damping > MOST_DAMPING) break;
      continue;
    }
    at = next;
    now = then;
    damping = Math.max(1e-9, damping / 10);
    if (Math.hypot(...step) < SMALLEST_STEP) break;
  }
  return at;
}
