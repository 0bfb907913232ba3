import type { Heap } from "../../kernels/heap";
import { boxRows } from "../raster/boxMean";
import { colourOfCell, colourPlane, type ColourGrid } from "./colourGrid";
import type { GlowGrid } from "./finish";

/** Bytes of the light that spreads over a grid. */
export const glowBytes = ({ width, height }: { width: number; height: number }): number =>
  3 * width * height * 4 + 64;

/** A narrow and a wide spread, as lenses and eyes have them, in shares of the reach. */
const SPREADS = [
  { share: 0.35, weight: 0.6 },
  { share: 1, weight: 0.4 },
] as const;
/** EV over the threshold at which light counts fully. */
const SOFT_EV = 1;

/**
 * Light above a threshold, spread: three planes on the grid, in light of the display.
 *
 * @param shownEv    EV from the scene's log luminance to the display's, a cell each
 * @param threshold  EV from display white
 * @param reach      share of the picture's width
 */
export function spreadLight(
  heap: Heap,
  grid: ColourGrid,
  shownEv: Float32Array,
  { threshold, reach }: { threshold: number; reach: number },
  at: number,
): GlowGrid {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const light = heap.f32(colourPlane(grid, 0), n);
  const [a, b] = [heap.f32(colourPlane(grid, 1), n), heap.f32(colourPlane(grid, 2), n)];
  const bright = heap.alloc(3 * n * 4 + 64);
  const out = heap.f32(bright, 3 * n);
  for (let i = 0; i < n; i++) {
    const ev = light[i]! + shownEv[i]!;
    const t = Math.min(1, Math.max(0, (ev - threshold) / SOFT_EV));
    if (t === 0) {
      out[i] = 0;
      out[n + i] = 0;
      out[2 * n + i] = 0;
      continue;
    }
    const rgb = colourOfCell(a[i]!, b[i]!);
    // a lamp of a thousand times white would drown all: what is spread is held at eight times
    const by = t * t * Math.min(8, 2 ** ev);
    for (let c = 0; c < 3; c++) out[c * n + i] = Math.max(0, rgb[c]! * by);
  }
  const rows = heap.alloc(boxRows(w));
  const [one, other] = [heap.alloc(n * 4 + 64), heap.alloc(n * 4 + 64)];
  heap.f32(at, 3 * n).fill(0);
  for (let c = 0; c < 3; c++)
    for (const { share, weight } of SPREADS) {
      const radius = Math.max(1, Math.round((reach * share * w) / 2));
      // three boxes are nearly a Gaussian
      heap.k.boxMean(bright + c * n * 4, w, h, radius, rows, one, 0, h);
      heap.k.boxMean(one, w, h, radius, rows, other, 0, h);
      heap.k.boxMean(other, w, h, radius, rows, one, 0, h);
      heap.k.addMasked(one, 0, n - (n % 4), weight, at + c * n * 4);
      const [sum, blurred] = [heap.f32(at + c * n * 4, n), heap.f32(one, n)];
      for (let i = n - (n % 4); i < n; i++) sum[i]! += weight * blurred[i]!;
    }
  heap.release(mark);
  return { width: w, height: h, at };
}
