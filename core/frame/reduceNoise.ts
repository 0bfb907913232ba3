import type { Heap } from "../../kernels/heap";
import { guidedFilter, guidedScratch } from "../raster/guidedFilter";
import { clamp } from "../math/clamp";

/**
 * Radii of the windows for brightness and for colour, px of the full-size frame; noise of a strong
 * setting, of 1, in square roots of light.
 */
const BRIGHTNESS_RADIUS = 2;
const COLOUR_RADIUS = 6;
const FULL_STRENGTH_NOISE = 0.02;

const coarseRadius = (downscale: number): number =>
  Math.max(1, Math.round(COLOUR_RADIUS / downscale));
/** Rows beyond its own that a row's smoothing looks at. */
export const noiseReach = (downscale: number): number => 2 * coarseRadius(downscale) + 2;

/**
 * Smooths noise of rows y0 to y1 in which no edge lies: brightness by a guided filter of its own,
 * colour, of which the eye sees less, in wider windows along the edges of brightness. Square roots
 * of light have about the same noise everywhere.
 *
 * @param from, to  w x h RGB, square roots of light in 16 bit
 * @param strength  0 to 1; @param downscale  full-size px a px, which has averaged as much noise
 *   away
 * @see He, Sun, Tang, "Guided image filtering", TPAMI 2013
 */
export function reduceNoise(
  heap: Heap,
  from: number,
  to: number,
  w: number,
  h: number,
  strength: number,
  downscale: number,
  y0: number,
  y1: number,
): void {
  const fine = Math.max(1, Math.round(BRIGHTNESS_RADIUS / downscale));
  const coarse = coarseRadius(downscale);
  const margin = noiseReach(downscale);
  const top = Math.max(0, y0 - margin);
  const rows = Math.min(h, y1 + margin) - top;
  const n = w * rows;
  const mark = heap.mark();
  const src = heap.u16(from + top * w * 6, n * 3);
  const eps = ((FULL_STRENGTH_NOISE * strength) / downscale) ** 2;
  const alloc = (): number => heap.alloc(n * 4 + 64);
  const Y = alloc();
  const U = alloc();
  const V = alloc();
  const [y, u, v] = [Y, U, V].map((p) => heap.f32(p, n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const r = src[o]! / 65535;
    const g = src[o + 1]! / 65535;
    const b = src[o + 2]! / 65535;
    y[i] = 0.25 * r + 0.5 * g + 0.25 * b;
    u[i] = r - g;
    v[i] = b - g;
  }
  const G = heap.put(y);
  const smooth = (plane: Float32Array, r: number, e: number): void => {
    const inner = heap.mark();
    plane.set(heap.f32(guidedFilter(heap, heap.put(plane), G, w, rows, r, e), n));
    heap.release(inner);
  };
  smooth(y, fine, eps);
  smooth(u, coarse, eps * 4);
  smooth(v, coarse, eps * 4);
  const dst = heap.u16(to + y0 * w * 6, (y1 - y0) * w * 3);
  const put = (x: number): number => clamp(Math.round(x * 65535), 0, 65535);
  for (let i = (y0 - top) * w, o = 0; o < dst.length; i++, o += 3) {
    const k = i * 3;
    const most = Math.max(src[k]!, src[k + 1]!, src[k + 2]!);
    // what is clipped stays so
    if (most > 64500) {
      dst[o] = src[k]!;
      dst[o + 1] = src[k + 1]!;
      dst[o + 2] = src[k + 2]!;
      continue;
    }
    const g = y[i]! - 0.25 * (u[i]! + v[i]!);
    dst[o] = put(g + u[i]!);
    dst[o + 1] = put(g);
    dst[o + 2] = put(g + v[i]!);
  }
  heap.release(mark);
}
/** Bytes of scratch for so many rows of a frame w px wide. */
export const noiseScratch = (w: number, rows: number): number =>
  w * (rows + 4 * COLOUR_RADIUS + 8) * 4 * 5 +
  guidedScratch(w, rows + 4 * COLOUR_RADIUS + 8) +
  (1 << 14);
