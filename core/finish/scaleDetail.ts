import type { Heap } from "../../kernels/heap";
import { guidedFilter } from "../raster/guidedFilter";
import { windowVariance } from "../raster/windowVariance";

/** Variance of log luminance under which a window is texture: a seventh of an EV. */
const TEXTURE = 0.15 ** 2;
/** Standard deviation of a window in EV at which its detail is held back by half: an edge. */
const EDGE_EV = 0.22;
/** A scale of less than half a px is not there. */
const LEAST_PX = 0.5;

/**
 * Texture of log luminance at two scales, in EV: what a base that keeps edges leaves out, of small
 * windows and of larger ones. At strong edges both fade, so that lifting them makes no halo; where
 * noise is known, they count by signal over signal and noise.
 *
 * @param near, far  radii of the windows, px
 * @returns addresses of the planes in scratch
 * @see He, Sun, Tang, "Guided image filtering", TPAMI 2013 (the bases)
 */
export function scaleDetail(
  heap: Heap,
  logLight: number,
  noiseEv: number,
  { width: w, height: h }: { width: number; height: number },
  near: number,
  far: number,
): { fine: number; small: number } {
  const n = w * h;
  const fine = heap.alloc(n * 4 + 64);
  const small = heap.alloc(n * 4 + 64);
  const mark = heap.mark();
  const base = (radius: number): number =>
    radius < LEAST_PX
      ? logLight
      : guidedFilter(heap, logLight, logLight, w, h, Math.max(1, Math.round(radius)), TEXTURE);
  const nearBase = base(near);
  const farBase = base(far);
  const band = (from: number, to: number, radius: number, dst: number): void => {
    if (from === to) heap.k.zero(dst, n * 4);
    else {
      const variance = windowVariance(heap, logLight, w, h, Math.max(1, Math.round(radius)));
      heap.k.heldDetail(from, to, variance, noiseEv, n, EDGE_EV, dst);
    }
  };
  band(logLight, nearBase, near, fine);
  band(nearBase, farBase, far, small);
  heap.release(mark);
  return { fine, small };
}
