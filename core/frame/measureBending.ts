import { axisOf, edgeRegions } from "../features/lineSegments";

/**
 * A value, how far it may be off (one standard deviation), and how many edges or places it was measured
 * by.
 */
export interface Measured {
  value: number;
  deviation: number;
  of: number;
}

/**
 * Shortest edge that tells, of the longer side; how far its points may lie from an even bend, px;
 * how far it may bend, of its length.
 */
const MIN_LENGTH_SHARE = 0.12;
const MAX_ROUGHNESS_PX = 0.4;
const MAX_BEND = 0.04;
/** Deviation from a straight line that costs half, px: that of an edge's own points. */
const POINT_NOISE_PX = 0.3;
/** Fewer edges, or a smaller share of those that could tell, may all be bent things. */
const MIN_EDGES = 5;
const MIN_AGREEING_SHARE = 0.5;
const MAX_VALUE = 0.3;
const VALUE_STEP = 0.004;
/**
 * How far aside a value is that makes an edge bend visibly; so many points of an edge err as one; a
 * deviation that tells nothing any more.
 */
const VISIBLE_STEP = 0.1;
const CORRELATED_POINTS = 10;
const MAX_DEVIATION = 0.008;

/** Points of an edge, px from the middle. */
type Edge = [x: number, y: number][];

/**
 * How a lens bends: the distortion under which long edges become straightest. Edges that are bent
 * themselves keep their distance under any value, and count no more for it.
 *
 * @param grey  square roots of light, row by row
 * @returns k of ideal = r (1 + k r^2), r = 1 at half the diagonal; undefined where too few edges
 *   tell, or they do not agree
 * @see Devernay and Faugeras, "Straight lines have to be straight", Machine Vision and Applications
 *   2001
 */
export function measureBending(w: number, h: number, grey: Float32Array): Measured | undefined {
  const edges = longEdges(w, h, grey);
  const half = Math.hypot(w, h) / 2;
  if (edges.length < MIN_EDGES) return undefined;
  const costOf = (k: number): number =>
    edges.reduce((sum, e) => {
      const d = offLine(e, k, half) ** 2;
      return sum + (e.length * d) / (d + POINT_NOISE_PX * POINT_NOISE_PX);
    }, 0);
  let best = 0;
  let least = costOf(0);
  for (let k = -MAX_VALUE; k <= MAX_VALUE + 1e-9; k += VALUE_STEP) {
    const c = costOf(k);
    if (c < least) {
      least = c;
      best = k;
    }
  }
  for (let step = VALUE_STEP / 2; step > 1e-4; step /= 2)
    for (const k of [best - step, best + step]) {
      const c = costOf(k);
      if (c < least) {
        least = c;
        best = k;
      }
    }
  // edges that are straight now and would not be at another value are those that decided
  const asked = edges
    .map((e) => {
      const own = offLine(e, best, half);
      const [more, less] = [
        offLine(e, best + VISIBLE_STEP, half),
        offLine(e, best - VISIBLE_STEP, half),
      ];
      return { own, moved: Math.max((more + less) / 2 - own, Math.abs(more - less) / 2) };
    })
    .filter((e) => e.moved > 0.1);
  const telling = asked.filter((e) => e.own < 2 * POINT_NOISE_PX);
  const d = 0.01;
  const curvature = (costOf(best + d) + costOf(best - d) - 2 * least) / (d * d);
  if (
    telling.length < Math.max(MIN_EDGES, MIN_AGREEING_SHARE * asked.length) ||
    Math.abs(best) > MAX_VALUE - VALUE_STEP ||
    !(curvature > 0)
  )
    return undefined;
  const deviation = Math.sqrt((2 * CORRELATED_POINTS) / curvature);
  return deviation > MAX_DEVIATION
    ? undefined
    : { value: 2 * deviation > Math.abs(best) ? 0 : best, deviation, of: telling.length };
}

/**
 * Standard deviation of an edge's points from a line, once they are brought to where a lens without
 * the bend draws them, px.
 */
function offLine(edge: Edge, k: number, half: number): number {
  let n = 0;
  let sx = 0;
  let sy = 0;
  let xx = 0;
  let xy = 0;
  let yy = 0;
  for (const [x, y] of edge) {
    const f = 1 + (k * (x * x + y * y)) / (half * half);
    const u = x * f;
    const v = y * f;
    n++;
    sx += u;
    sy += v;
    xx += u * u;
    xy += u * v;
    yy += v * v;
  }
  const a = xx / n - (sx / n) ** 2;
  const b = xy / n - (sx / n) * (sy / n);
  const c = yy / n - (sy / n) ** 2;
  return Math.sqrt(Math.max(0, (a + c - Math.hypot(a - c, 2 * b)) / 2));
}

/**
 * Long edges that are straight or evenly bent, as points about a px apart, each found across its
 * edge to parts of a px.
 */
function longEdges(w: number, h: number, grey: Float32Array): Edge[] {
  const { regions, steep } = edgeRegions(w, h, grey, new Uint8Array(w * h).fill(1));
  const shortest = MIN_LENGTH_SHARE * Math.max(w, h);
  return regions.flatMap((region) => {
    if (region.length < shortest) return [];
    const { mx, my, ux, uy } = axisOf(region, w, steep);
    const sums = new Map<number, [weight: number, across: number]>();
    let lo = Infinity;
    let hi = -Infinity;
    for (const k of region) {
      const x = (k % w) - mx;
      const y = Math.floor(k / w) - my;
      const p = x * ux + y * uy;
      const q = y * ux - x * uy;
      const g = steep[k]! ** 2;
      const s = sums.get(Math.round(p)) ?? [0, 0];
      s[0] += g;
      s[1] += g * q;
      sums.set(Math.round(p), s);
      lo = Math.min(lo, p);
      hi = Math.max(hi, p);
    }
    if (hi - lo < shortest || sums.size < 0.8 * (hi - lo)) return [];
    const points = [...sums].map(([p, [g, q]]) => [p, q / g] as const);
    const bend = parabola(points);
    // slopes were taken between four pixels: their place is the corner of the first
    return bend && bend.rms < MAX_ROUGHNESS_PX && Math.abs(bend.sagitta) < MAX_BEND * (hi - lo)
      ? [
          points.map(([p, q]): [number, number] => [
            mx + ux * p - uy * q + 1 - w / 2,
            my + uy * p + ux * q + 1 - h / 2,
          ]),
        ]
      : [];
  });
}

/**
 * The parabola that points lie along, how far off they are, and how far it rises over their length.
 */
function parabola(
  points: readonly (readonly [number, number])[],
): { rms: number; sagitta: number } | undefined {
  const n = points.length;
  const half = Math.max(...points.map(([p]) => Math.abs(p))) || 1;
  // powers of a variable within one, so that the equations stay well conditioned
  const s = [0, 0, 0, 0, 0];
  const t = [0, 0, 0];
  for (const [p, q] of points) {
    const x = p / half;
    let e = 1;
    for (let i = 0; i < 5; i++) {
      s[i]! += e;
      if (i < 3) t[i]! += e * q;
      e *= x;
    }
  }
  const [s0, s1, s2, s3, s4] = s as [number, number, number, number, number];
  const det = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2);
  if (Math.abs(det) < 1e-9) return undefined;
  const [t0, t1, t2] = t as [number, number, number];
  const a = (t0 * (s2 * s4 - s3 * s3) - s1 * (t1 * s4 - s3 * t2) + s2 * (t1 * s3 - s2 * t2)) / det;
  const b = (s0 * (t1 * s4 - t2 * s3) - t0 * (s1 * s4 - s3 * s2) + s2 * (s1 * t2 - t1 * s2)) / det;
  const c = (s0 * (s2 * t2 - s3 * t1) - s1 * (s1 * t2 - t1 * s2) + t0 * (s1 * s3 - s2 * s2)) / det;
  return {
    rms: Math.sqrt(
      points.reduce((sum, [p, q]) => {
        const x = p / half;
        return sum + (q - a - b * x - c * x * x) ** 2;
      }, 0) / n,
    ),
    sagitta: c,
  };
}
