import { between, inFrame, rayOf, seen, type Camera } from "../camera";
import { dot, cross, unit, type Vector } from "../../math/vector";
import type { SmallFrame } from "../seams/smallFrame";
import { clamp } from "../../math/clamp";
import { median } from "../../math/median";

/** Points, px, that a frame shows of something straight. */
export interface StraightLine {
  frame: number;
  points: [number, number][];
}

/**
 * How far to either side of where a line was drawn its edge is looked for, px of the small frame, and in
 * what steps; how far apart its points are.
 */
const SEARCH_PX = 10;
const SEARCH_STEP_PX = 0.5;
const POINT_SPACING_PX = 1.5;
/**
 * Fewest points of an edge, the least share of the frame's longer side that it spans, and the least
 * contrast of a point against the middle one's.
 */
const MIN_POINTS = 12;
const MIN_SPAN_SHARE = 0.15;
const MIN_CONTRAST_SHARE = 0.35;
/** An edge steeper than this across a px, in square roots of light, is one. */
const MIN_SLOPE = 0.012;

/**
 * The edge in a frame along a line that was drawn between two directions: the path beside it that
 * is steepest throughout, found by dynamic programming, each of its points to a part of a px.
 *
 * @param small  of the frame
 * @returns px of the full-size frame; undefined where there is no such edge
 * @see Amini, Weymouth, Jain, "Using dynamic programming for solving variational problems in
 *   vision", TPAMI 1990
 */
export function edgeAlong(
  camera: Camera,
  small: SmallFrame,
  from: Vector,
  to: Vector,
): [number, number][] | undefined {
  const angle = Math.acos(clamp(dot(unit(from), unit(to)), -1, 1));
  const count = Math.ceil((angle * camera.focalPx) / (POINT_SPACING_PX * small.scale));
  const margin = (SEARCH_PX + 1) * small.scale;
  if (count < MIN_POINTS || count > 4000) return undefined;
  const drawn = between(from, to, count).map((d) => {
    const p = seen(camera, d);
    return p && inFrame(camera, p, margin) ? p : undefined;
  });
  // where one frame sees it, it sees it in one piece
  const first = drawn.findIndex((p) => p);
  const places =
    first < 0
      ? []
      : drawn
          .slice(first, drawn.findIndex((p, i) => i > first && !p) + 1 || undefined)
          .filter((p) => p !== undefined);
  if (places.length < MIN_POINTS) return undefined;
  const grey = (x: number, y: number): number => {
    const u = x / small.scale - 0.5;
    const v = y / small.scale - 0.5;
    const i = clamp(Math.floor(u), 0, small.width - 2);
    const j = clamp(Math.floor(v), 0, small.height - 2);
    const fu = u - i;
    const fv = v - j;
    const at = (p: number, q: number): number =>
      Math.sqrt(Math.max(0, small.rgb[((j + q) * small.width + i + p) * 3 + 1]!));
    return (
      (at(0, 0) * (1 - fu) + at(1, 0) * fu) * (1 - fv) + (at(0, 1) * (1 - fu) + at(1, 1) * fu) * fv
    );
  };
  const offsets = Array.from(
    { length: 2 * (SEARCH_PX / SEARCH_STEP_PX) + 1 },
    (_, k) => (k * SEARCH_STEP_PX - SEARCH_PX) * small.scale,
  );
  const n = offsets.length;
  const across = places.map((_, i) => {
    const [p, q] = [places[Math.max(0, i - 1)]!, places[Math.min(places.length - 1, i + 1)]!];
    const l = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    return [-(q[1] - p[1]) / l, (q[0] - p[0]) / l] as const;
  });
  const slopes = places.map(([x, y], i) => {
    const [nx, ny] = across[i]!;
    return offsets.map(
      (o) =>
        grey(x + nx * (o + small.scale), y + ny * (o + small.scale)) -
        grey(x + nx * (o - small.scale), y + ny * (o - small.scale)),
    );
  });
  // lighter on one side or on the other, but on the same one throughout
  const [path] = [1, -1].map((sign) => steepest(slopes, sign, n)).sort((p, q) => q.sum - p.sum) as [
    Path,
  ];
  const points = path.at.map((k, i): { at: [number, number]; steep: number } => {
    const s = slopes[i]!;
    const [l, m, r] = [s[Math.max(0, k - 1)]!, s[k]!, s[Math.min(n - 1, k + 1)]!].map(Math.abs) as [
      number,
      number,
      number,
    ];
    const bend = l - 2 * m + r;
    const o =
      offsets[k]! +
      (bend < 0 ? clamp((0.5 * (l - r)) / bend, -0.5, 0.5) : 0) * SEARCH_STEP_PX * small.scale;
    return { at: [places[i]![0] + across[i]![0] * o, places[i]![1] + across[i]![1] * o], steep: m };
  });
  const middle = median(points.map((p) => p.steep));
  const kept = points
    .filter((p) => p.steep > MIN_CONTRAST_SHARE * middle && p.steep > MIN_SLOPE)
    .map((p) => p.at);
  if (kept.length < Math.max(MIN_POINTS, 0.6 * places.length)) return undefined;
  const [p, q] = [kept[0]!, kept.at(-1)!];
  return Math.hypot(q[0] - p[0], q[1] - p[1]) <
    MIN_SPAN_SHARE * Math.max(camera.width, camera.height)
    ? undefined
    : kept;
}

interface Path {
  at: number[];
  sum: number;
}
/**
 * The path of steepest slopes of one sign that moves by a step at most from one point to the next.
 */
function steepest(slopes: readonly (readonly number[])[], sign: number, n: number): Path {
  let best = slopes[0]!.map((s) => s * sign);
  const came: Int8Array[] = [];
  for (const s of slopes.slice(1)) {
    const way = new Int8Array(n);
    const next = s.map((v, k) => {
      let by = 0;
      for (const d of [-1, 1]) if (k + d >= 0 && k + d < n && best[k + d]! > best[k + by]!) by = d;
      way[k] = by;
      return best[k + by]! + v * sign;
    });
    came.push(way);
    best = next;
  }
  let k = best.indexOf(Math.max(...best));
  const sum = best[k]!;
  const at = [k];
  for (const way of came.reverse()) at.push((k += way[k]!));
  return { at: at.reverse(), sum };
}

/**
 * How far points of something straight lie off the plane that they span with the camera, px:
 * nothing, if the lens is known rightly.
 *
 * @see Devernay and Faugeras, "Straight lines have to be straight", Machine Vision and Applications
 *   2001
 */
export function offStraight(camera: Camera, points: StraightLine["points"]): number[] {
  const rays = points.map(([x, y]) => unit(rayOf(camera, x, y)));
  const u = rays[0]!;
  const n = unit(cross(u, rays.at(-1)!));
  const v = cross(n, u);
  const along = rays.map((d): [number, number] => [dot(d, u), dot(d, v)]);
  const off = rays.map((d) => dot(d, n));
  // the plane that fits them best, near that of the ends
  let uu = 1e-12;
  let uv = 0;
  let vv = 1e-12;
  let u0 = 0;
  let v0 = 0;
  along.forEach(([p, q], i) => {
    uu += p * p;
    uv += p * q;
    vv += q * q;
    u0 += p * off[i]!;
    v0 += q * off[i]!;
  });
  const det = uu * vv - uv * uv;
  const s = Math.abs(det) < 1e-15 ? 0 : (u0 * vv - v0 * uv) / det;
  const t = Math.abs(det) < 1e-15 ? 0 : (v0 * uu - u0 * uv) / det;
  return off.map((o, i) => (o - s * along[i]![0] - t * along[i]![1]) * camera.focalPx);
}
