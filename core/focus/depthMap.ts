import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { guidedFilter } from "../raster/guidedFilter";
import { pyramidShape, reduceAll } from "../raster/pyramid";
import { quantiles } from "../math/quantiles";
import { clamp } from "../math/clamp";

/** What a map of depth is made of, on one level of the picture: addresses of planes of w x h. */
export interface SharpLevel {
  /** 0 is the finest */
  level: number;
  w: number;
  h: number;
  /** bytes: the sharpest frame's place plus 1 */
  sources: number;
  /**
   * the sum of all frames' sharpness, the best, and that of the frames before and after the best
   * along the travel
   */
  total: number;
  best: number;
  lower: number;
  upper: number;
  /** greys of the fused picture */
  guide: number;
}

export interface DepthInput {
  width: number;
  height: number;
  /**
   * place along the focus travel of the frame in which each sample is sharpest, `NONE` where
   * nothing is seen; and how far beside it sharpness peaks, as `peakBeside` tells
   */
  place: Float32Array;
  beside: Float32Array;
  /** how sharp that frame is there, and the mean over all frames */
  best: Float32Array;
  mean: Float32Array;
  /** the fused picture's greys, whose edges the map follows */
  guide: Float32Array;
}
export interface DepthMap {
  /** places along the focus travel of the frames that are the sharpest as they lie on each other */
  depth: Float32Array;
  /** where sharpness peaks, between frames too: the nearer to the thing's own depth */
  peak: Float32Array;
  /**
   * how much a picture composed along the map is to be believed, 0 to 1; the rest is the pyramid's
   */
  trust: Float32Array;
  /**
   * how far what is sharp round a place tells its depth, 0 to 1: with little of it, or if it is at
   * odds with itself, depth is a guess
   */
  known: Float32Array;
}

/** The place of a sample that no frame shows. */
export const UNKNOWN_DEPTH = -1;
/**
 * A peak this many times the mean over all frames begins to be one, and this many times more is one
 * surely: over so few px noise alone reaches 1.4.
 */
const PEAK_FROM = 1.48;
const PEAK_OVER = 1.2;
/** Share of a coarser level's word where a sample says nothing by itself. */
const COARSER_LEVEL_SHARE = 0.1;
/** How little of that it takes, as a mean over 5 x 5 samples. */
const COARSER_LEVEL_DECAY = 10;
/**
 * Radius of the windows whose sharpness tells a depth, and how much of it, as a mean over them,
 * tells it by half.
 */
const KNOWN_RADIUS = 8;
const HALF_KNOWN_SHARPNESS = 0.02;
/**
 * Radius of the windows in which depth is a line in the picture's greys, and what grey differences
 * count as edges.
 */
const GUIDE_RADIUS = 3;
const GUIDE_EPSILON = 3e-4;

/**
 * A regularised map of depth from where frames were sharpest: samples without texture take their
 * neighbours' depth, single ones that stand alone are drawn to those round them, and steps in depth
 * are kept where the picture has an edge.
 *
 * @see He, Sun, Tang, "Guided image filtering", TPAMI 2013; Gortler et al., "The lumigraph",
 *   SIGGRAPH 1996 (push and pull)
 */
export function depthMap(
  heap: Heap,
  { width: w, height: h, place, beside, best, mean, guide }: DepthInput,
): DepthMap {
  const n = w * h;
  const outer = heap.mark();
  const logBest = heap.put(best.map((v) => Math.log2(v + 1e-12)));
  const [floor] = quantiles(heap, logBest, n, [0.1]) as [number];
  const noise = 3 * 2 ** floor;
  const sure = best.map((v, i) =>
    place[i]! <= UNKNOWN_DEPTH
      ? 0
      : clamp((v / Math.max(1e-12, mean[i]!) - PEAK_FROM) / PEAK_OVER, 0, 1) * (v / (v + noise)),
  );
  let depth = pulled(heap, place, sure, w, h);
  let confident = sure;
  for (let round = 0; round < 2; round++) {
    depth = guided(heap, depth, confident, guide, w, h);
    // what stands alone against all round it is noise, or the haze of something before it
    confident = sure.map((c, i) => c / (1 + ((place[i]! - depth[i]!) / 1.5) ** 2) ** 2);
    depth = pulled(heap, place, confident, w, h);
  }
  const among = confident.map((c) => c + 0.02);
  depth = guided(heap, depth, among, guide, w, h);
  const peak = guided(
    heap,
    pulled(
      heap,
      place.map((p, i) => p + beside[i]!),
      confident,
      w,
      h,
    ),
    among,
    guide,
    w,
    h,
  );
  // where sharp detail says otherwise, as where depths cross within a few samples, the map is wrong
  // about it
  const against = around(
    heap,
    sure.map((c, i) => c * clamp(Math.abs(place[i]! - depth[i]!) - 0.5, 0, 1)),
    w,
    h,
    2,
  );
  const trust = against.map((v) => clamp(1 - COARSER_LEVEL_DECAY * v, 0, 1));
  const all = around(heap, sure, w, h, KNOWN_RADIUS);
  const known = around(heap, confident, w, h, KNOWN_RADIUS).map((v, i) =>
    clamp(v / (all[i]! + HALF_KNOWN_SHARPNESS), 0, 1),
  );
  heap.release(outer);
  return { depth, peak, trust, known };
}
/** Means over square windows. */
function around(
  heap: Heap,
  values: Float32Array,
  w: number,
  h: number,
  radius: number,
): Float32Array {
  const mark = heap.mark();
  const out = heap.f32(boxMean(heap, heap.put(values), w, h, radius), w * h).slice();
  heap.release(mark);
  return out;
}
/**
 * Places by which sharpness peaks beside the sharpest frame, of which the frames before and after
 * it tell: the top of the bell through all three, whose logarithm is a parabola.
 *
 * @see Nayar and Nakagawa, "Shape from focus", TPAMI 1994
 */
export function peakBeside(lower: number, best: number, upper: number): number {
  if (!(lower > 0 && upper > 0 && best > 0)) return 0;
  const a = Math.min(0, Math.log(lower / best));
  const c = Math.min(0, Math.log(upper / best));
  return a + c < -MIN_CURVATURE ? (a - c) / (2 * (a + c)) : 0;
}
/** Three that differ by less than this have no top. */
const MIN_CURVATURE = 0.02;

/** Bytes of scratch for a map of n samples. */
export const depthScratch = (n: number): number => n * 4 * 16 + (1 << 20);

/** Weighted values where there are weights; elsewhere what coarser levels say. */
function pulled(
  heap: Heap,
  values: Float32Array,
  weights: Float32Array,
  w: number,
  h: number,
): Float32Array {
  const mark = heap.mark();
  const shape = pyramidShape(w, h);
  const { levels } = shape;
  const n = w * h;
  const sums = heap.alloc(shape.bytes);
  const counts = heap.alloc(shape.bytes);
  const row = heap.alloc(w * 4 + 64);
  const s = heap.f32(sums, n);
  for (let i = 0; i < n; i++) s[i] = values[i]! * weights[i]!;
  heap.f32(counts, n).set(weights);
  for (const p of [sums, counts]) reduceAll(heap, p, shape);
  for (let k = levels.length - 1; k >= 0; k--) {
    const l = levels[k]!;
    const q = heap.f32(counts + l.at, l.w * l.h);
    const coarser = levels[k + 1];
    if (coarser)
      heap.k.pyrUp(
        sums + coarser.at,
        l.w,
        l.h,
        sums + l.at,
        sums + l.at,
        COARSER_LEVEL_SHARE,
        row,
        0,
        l.h,
      );
    for (let i = 0; i < q.length; i++)
      q[i] = coarser ? q[i]! + COARSER_LEVEL_SHARE : Math.max(1e-9, q[i]!);
    heap.k.divideBy(sums + l.at, counts + l.at, l.w * l.h);
  }
  const out = s.slice();
  heap.release(mark);
  return out;
}

/** The guided filter with a weight for each sample. */
function guided(
  heap: Heap,
  values: Float32Array,
  weights: Float32Array,
  guide: Float32Array,
  w: number,
  h: number,
): Float32Array {
  const mark = heap.mark();
  const out = heap
    .f32(
      guidedFilter(
        heap,
        heap.put(values),
        heap.put(guide),
        w,
        h,
        GUIDE_RADIUS,
        GUIDE_EPSILON,
        heap.put(weights.map((v) => v + 1e-3)),
      ),
      w * h,
    )
    .slice();
  heap.release(mark);
  return out;
}
