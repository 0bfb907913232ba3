import { rootTable } from "../colour/rootTable";
import { clamp } from "../math/clamp";
import type { CurvePoint } from "./adjustments";

/** Encoding in which a curve's points are drawn: as displays have it, so that equal steps look equal. */
const GAMMA = 2.2;

/**
 * A curve through points that never overshoots them: between points that rise it rises.
 *
 * @param points  x from left to right; the ends (0, 0) and (1, 1) are added where they are missing
 * @see Fritsch and Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer. Anal. 1980
 */
export function monotoneCurve(points: readonly CurvePoint[]): (x: number) => number {
  const knots = [...points];
  if (!knots.length || knots[0]![0] > 0) knots.unshift([0, Math.min(0, knots[0]?.[1] ?? 0)]);
  if (knots.at(-1)![0] < 1) knots.push([1, 1]);
  const n = knots.length;
  const rise = knots
    .slice(1)
    .map(([x, y], i) => (y - knots[i]![1]) / Math.max(1e-6, x - knots[i]![0]));
  const tangents = knots.map((_, i) => tangentAt(rise, i, n));
  return (x) => {
    const at = clamp(x, 0, 1);
    let i = 0;
    while (i < n - 2 && at > knots[i + 1]![0]) i++;
    const [x0, y0] = knots[i]!;
    const [x1, y1] = knots[i + 1]!;
    const h = Math.max(1e-6, x1 - x0);
    const t = clamp((at - x0) / h, 0, 1);
    const t2 = t * t;
    const t3 = t2 * t;
    const y =
      (2 * t3 - 3 * t2 + 1) * y0 +
      (t3 - 2 * t2 + t) * h * tangents[i]! +
      (3 * t2 - 2 * t3) * y1 +
      (t3 - t2) * h * tangents[i + 1]!;
    return clamp(y, 0, 1);
  };
}

/** The slope at a knot: the harmonic mean of those beside it, 0 where the curve turns. */
function tangentAt(rise: readonly number[], i: number, n: number): number {
  if (i === 0) return rise[0]!;
  if (i === n - 1) return rise[n - 2]!;
  const [before, after] = [rise[i - 1]!, rise[i]!];
  return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
}

/**
 * A curve on linear light as the kernels read it: pairs of value and rise to the next, over the
 * square root of light. Undefined where it is a straight line.
 */
export function curveTable(points: readonly CurvePoint[]): Float32Array | undefined {
  if (!points.length) return undefined;
  const curve = monotoneCurve(points);
  return rootTable((light) => curve(light ** (1 / GAMMA)) ** GAMMA);
}
