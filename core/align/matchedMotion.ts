import type { Heap } from "../../kernels/heap";
import { findFeatures } from "../features/features";
import { matchFeatures } from "../features/matchFeatures";
import { project, rescale, type Matrix3 } from "../math/matrix3";
import { random } from "../math/random";
import type { LogPyramid } from "./logPyramid";

/** Corners are looked for on a level no longer than this, px: enough of them, and little memory. */
const LONG_EDGE_PX = 640;
/** Matches agree within this share of the frame's longer side. */
const MAX_MISS_SHARE = 0.004;
/** Fewer matches, or a smaller share of them, agree by chance. */
const MIN_MATCHES = 8;
const LEAST_SHARE = 0.15;

/**
 * The similarity on which most matched corners of two frames agree: found however far the camera
 * moved or rolled, where a search through small motions does not reach. Exact to some px, a first
 * guess for `registerPair`.
 *
 * @returns template to image, in px of the finest level; undefined where too few corners agree
 * @see Fischler and Bolles, "Random sample consensus", 1981
 */
export function matchedMotion(
  heap: Heap,
  template: LogPyramid,
  image: LogPyramid,
): Matrix3 | undefined {
  const finest = template.levels.findIndex((l) => Math.max(l.w, l.h) <= LONG_EDGE_PX);
  const level = Math.max(0, finest);
  const { w, h } = template.levels[level]!;
  const a = findFeatures(heap, { levels: template.levels.slice(level) });
  const b = findFeatures(heap, { levels: image.levels.slice(level) });
  const matches = matchFeatures(heap, a, b);
  const n = matches.length / 2;
  if (n < MIN_MATCHES) return undefined;
  const limit = (MAX_MISS_SHARE * Math.max(w, h)) ** 2;
  const rnd = random(1);
  const from = (k: number): [number, number] => [
    a.points[matches[k * 2]! * 2]!,
    a.points[matches[k * 2]! * 2 + 1]!,
  ];
  const to = (k: number): [number, number] => [
    b.points[matches[k * 2 + 1]! * 2]!,
    b.points[matches[k * 2 + 1]! * 2 + 1]!,
  ];
  const agreeing = (m: Matrix3): number[] =>
    Array.from({ length: n }, (_, k) => k).filter((k) => {
      const [x, y] = project(m, ...from(k));
      const [u, v] = to(k);
      return (x - u) ** 2 + (y - v) ** 2 < limit;
    });
  let best: number[] = [];
  for (let round = 0; round < 400 && best.length < 0.8 * n; round++) {
    const i = Math.floor(rnd() * n);
    const j = Math.floor(rnd() * n);
    const m = similarityOf([i, j].map(from), [i, j].map(to));
    // frames of one stack are not zoomed
    if (!m || Math.abs(Math.hypot(m[0]!, m[3]!) - 1) > 0.1) continue;
    const agree = agreeing(m);
    if (agree.length > best.length) best = agree;
  }
  if (best.length < Math.max(MIN_MATCHES, LEAST_SHARE * n)) return undefined;
  const found = similarityOf(best.map(from), best.map(to));
  return found && rescale(found, template.levels[0]!.w / w);
}

/**
 * The similarity that takes points nearest to others, in least squares; undefined for points in one
 * place.
 */
function similarityOf(
  from: readonly (readonly [number, number])[],
  to: readonly (readonly [number, number])[],
): Matrix3 | undefined {
  const n = from.length;
  const mean = (v: readonly (readonly [number, number])[]): [number, number] => [
    v.reduce((s, p) => s + p[0], 0) / n,
    v.reduce((s, p) => s + p[1], 0) / n,
  ];
  const [fx, fy] = mean(from);
  const [tx, ty] = mean(to);
  let along = 0;
  let across = 0;
  let square = 0;
  for (let k = 0; k < n; k++) {
    const x = from[k]![0] - fx;
    const y = from[k]![1] - fy;
    const u = to[k]![0] - tx;
    const v = to[k]![1] - ty;
    along += x * u + y * v;
    across += x * v - y * u;
    square += x * x + y * y;
  }
  if (square < 1) return undefined;
  const c = along / square;
  const s = across / square;
  return [c, -s, tx - c * fx + s * fy, s, c, ty - s * fx - c * fy, 0, 0, 1];
}
