import { boxMean } from "../raster/boxMean";
import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { enlargement, type LensKind } from "../panorama/camera";

/** Corners of a frame with a description of what lies round each. */
export interface Features { /** x, y in px of the given frame, pixel centres at halves */ points: Float32Array; /** SIZE values a corner, mean 0, length 1 */ descriptors: Float32Array; count: number }
export const SIZE = 64;

/** Corners kept a frame. */
const MOST = 900;
/** Side of the described patch in samples, and px between them at the corner's own level. */
const SIDE = 8, SPACING = 2.5;
/** Samples of a corner's own level that its patch reaches. */
const RIM = Math.ceil(SPACING * SIDE * 0.6);
/** What makes less of a corner is noise. */
const LEAST = 1e-5;

/**
 * Corners at several scales, spread evenly over the picture, each with an orientation and a small patch of log luminance
 * without its mean and contrast: so neither exposure nor a roll of the camera changes it much.
 *
 * @param focalPx  in px of the first level, if it is known: then patches are squares on the sphere, not on the frame, whose
 *                 corners a wide lens draws larger than its middle
 * @param circle   radius of the image circle in px of the first level, where the frame has one: nothing is looked for outside
 * @param centre   where the lens's axis meets the first level, px; its middle if not said
 * @see Brown, Szeliski, Winder, "Multi-image matching using multi-scale oriented patches", CVPR 2005; Harris and Stephens 1988
 */
export function findFeatures(heap: Heap, { levels }: LogPyramid, focalPx?: number, lens: LensKind = "rectilinear", circle?: number, centre?: readonly [number, number]): Features {
  const mark = heap.mark(), frame = { width: levels[0]!.w, height: levels[0]!.h }, [cx, cy] = centre ?? [frame.width / 2, frame.height / 2];
  const found: { x: number; y: number; strength: number; level: number; scale: number }[] = [];
  levels.slice(0, 4).forEach(({ w, h, log, vote }, level) => {
    if (Math.min(w, h) < 40) return;
    const inner = heap.mark(), plane = cornerStrength(heap, log, vote, w, h), strength = heap.f32(plane, w * h), scale = frame.width / w, at = heap.alloc(w * h + 64);
    for (const i of heap.i32(at, heap.k.peaks(plane, w, h, RIM, LEAST, at))) {
      const x = i % w, y = Math.floor(i / w), s = strength[i]!;
      // the peak of a parabola through the neighbours
      const peak = (a: number, b: number, c: number): number => { const d = a - 2 * b + c; return d < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / d)) : 0; };
      found.push({ x: (x + 0.5 + peak(strength[i - 1]!, s, strength[i + 1]!)) * scale, y: (y + 0.5 + peak(strength[i - w]!, s, strength[i + w]!)) * scale, strength: s * 1.6 ** level, level, scale });
    }
    heap.release(inner);
  });
  const chosen = spread(circle === undefined ? found : found.filter((f) => Math.hypot(f.x - cx, f.y - cy) < 0.95 * circle - RIM * f.scale), MOST, frame.width, frame.height), points = new Float32Array(chosen.length * 2), descriptors = new Float32Array(chosen.length * SIZE);
  let count = 0;
  for (const f of chosen) {
    const { w, h, log } = levels[f.level]!;
    if (!describe(heap.f32(log, w * h), w, h, f.x / f.scale - 0.5, f.y / f.scale - 0.5, focalPx === undefined ? UPRIGHT : stretchAt(f.x - cx, f.y - cy, focalPx, lens), descriptors.subarray(count * SIZE, (count + 1) * SIZE))) continue;
    points[count * 2] = f.x; points[count * 2 + 1] = f.y;
    count++;
  }
  heap.release(mark);
  return { points: points.slice(0, count * 2), descriptors: descriptors.slice(0, count * SIZE), count };
}

/** Address of how much a corner each px is, by the structure tensor over a window of 7 px; nothing where samples are clipped or black. */
function cornerStrength(heap: Heap, log: number, vote: number, w: number, h: number): number {
  const n = w * h, out = heap.alloc(n * 4 + 16), mark = heap.mark(), planes = [0, 1, 2].map(() => heap.alloc(n * 4 + 16)) as [number, number, number];
  for (const p of planes) heap.k.zero(p, n * 4);
  heap.k.slopeProducts(log, vote, w, h, ...planes);
  heap.k.harmonicMeans(...(planes.map((p) => boxMean(heap, boxMean(heap, p, w, h, 1), w, h, 2)) as [number, number, number]), n, out);
  heap.release(mark);
  return out;
}

/** The corners that dominate the widest neighbourhoods (adaptive non-maximal suppression), by way of a grid of buckets. */
function spread<T extends { x: number; y: number; strength: number }>(all: T[], most: number, w: number, h: number): T[] {
  if (all.length <= most) return all;
  const sorted = [...all].sort((a, b) => b.strength - a.strength).slice(0, most * 8), size = Math.sqrt((w * h) / 600), gw = Math.ceil(w / size), gh = Math.ceil(h / size), buckets: T[][] = Array.from({ length: gw * gh }, () => []);
  const radius = sorted.map((f) => {
    const gx = Math.floor(f.x / size), gy = Math.floor(f.y / size);
    let nearest = Infinity;
    for (let ring = 0; ring < 4 && nearest > ((ring - 1) * size) ** 2; ring++) {
      for (let v = gy - ring; v <= gy + ring; v++) for (let u = gx - ring; u <= gx + ring; u++) {
        if (v < 0 || u < 0 || v >= gh || u >= gw || Math.max(Math.abs(u - gx), Math.abs(v - gy)) !== ring) continue;
        for (const o of buckets[v * gw + u]!) if (o.strength * 0.9 > f.strength) nearest = Math.min(nearest, (o.x - f.x) ** 2 + (o.y - f.y) ** 2);
      }
    }
    buckets[Math.min(gh - 1, gy) * gw + Math.min(gw - 1, gx)]!.push(f);
    return nearest;
  });
  return sorted.map((f, i) => ({ f, r: radius[i]! })).sort((a, b) => b.r - a.r).slice(0, most).map(({ f }) => f);
}

/** A symmetric matrix: how a small way on the sphere is drawn on the frame. */
type Stretch = readonly [xx: number, xy: number, yy: number];
const UPRIGHT: Stretch = [1, 0, 1];
function stretchAt(dx: number, dy: number, focalPx: number, lens: LensKind): Stretch {
  const r2 = dx * dx + dy * dy, { outwards, across } = enlargement(lens, Math.sqrt(r2) / focalPx);
  if (r2 < 1) return UPRIGHT;
  const more = (outwards - across) / r2;
  return [across + more * dx * dx, more * dx * dy, across + more * dy * dy];
}

/** Writes a corner's description; false where the patch has no contrast. Samples are averaged over their spacing, so they come from the smoothed plane around. */
function describe(L: Float32Array, w: number, h: number, x: number, y: number, [xx, xy, yy]: Stretch, out: Float32Array): boolean {
  /** the plane at a way from the corner, along the sphere */
  const at = (a: number, b: number): number => {
    const u = x + xx * a + xy * b, v = y + xy * a + yy * b, cx = Math.max(0, Math.min(w - 1.001, u)), cy = Math.max(0, Math.min(h - 1.001, v)), ix = Math.floor(cx), iy = Math.floor(cy), fx = cx - ix, fy = cy - iy, k = iy * w + ix;
    return (L[k]! * (1 - fx) + L[k + 1]! * fx) * (1 - fy) + (L[k + w]! * (1 - fx) + L[k + w + 1]! * fx) * fy;
  };
  let gx = 0, gy = 0;
  for (let j = -4; j <= 4; j++) for (let i = -4; i <= 4; i++) { const k = Math.exp(-(i * i + j * j) / 14); gx += k * (at(i + 1, j) - at(i - 1, j)); gy += k * (at(i, j + 1) - at(i, j - 1)); }
  const n = Math.hypot(gx, gy) || 1, c = gx / n, s = gy / n;
  let sum = 0, square = 0;
  for (let j = 0, o = 0; j < SIDE; j++) for (let i = 0; i < SIDE; i++, o++) {
    const a = (i - (SIDE - 1) / 2) * SPACING, b = (j - (SIDE - 1) / 2) * SPACING, u = c * a - s * b, v = s * a + c * b, d = SPACING / 3;
    const value = (at(u, v) * 2 + at(u - d, v - d) + at(u + d, v - d) + at(u - d, v + d) + at(u + d, v + d)) / 6;
    out[o] = value;
    sum += value;
  }
  for (let o = 0; o < SIZE; o++) { out[o]! -= sum / SIZE; square += out[o]! ** 2; }
  const length = Math.sqrt(square);
  if (length < 0.08) return false;
  for (let o = 0; o < SIZE; o++) out[o]! /= length;
  return true;
}
