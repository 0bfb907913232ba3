import type { Heap } from "../../kernels/heap";
import type { Accumulator } from "../raster/accumulator";
import { pyramidShape } from "../raster/pyramid";
import { FOCUS_LEVELS } from "./sharpest";

/**
 * Spreads a plane of a pyramid's level over the full size.
 *
 * @param from  its address
 * @param to  that of width x height floats
 */
export function spreadPlane(
  heap: Heap,
  from: number,
  level: number,
  { width, height }: { width: number; height: number },
  to: number,
): void {
  const { levels } = pyramidShape(width, height, FOCUS_LEVELS);
  const n = width * height;
  const mark = heap.mark();
  const row = heap.alloc(width * 4 + 64);
  const two = [heap.alloc((n >> 1) * 4 + width * 4 + 64), to];
  if (level === 0) heap.f32(to, n).set(heap.f32(from, n));
  // by turns into scratch and into place, so that the last one ends in place
  for (let k = level - 1, at = from; k >= 0; k--) {
    const next = two[1 - (k & 1)]!;
    const { w, h } = levels[k]!;
    heap.k.zero(next, w * h * 4);
    heap.k.pyrUp(at, w, h, next, next, 1, row, 0, h);
    at = next;
  }
  heap.release(mark);
}

/**
 * Lays rows y0 to y1 of what was composed along the depth over the fused picture: by its trust, or
 * wholly.
 *
 * @param sums   light by weight, and the weights, of frames near each place's depth
 * @param trust  address of the trust in the depth, 0 to 1
 */
export function mixDepth(
  heap: Heap,
  acc: Accumulator,
  sums: Accumulator,
  trust: number | undefined,
  y0: number,
  y1: number,
): void {
  const at = y0 * acc.width * 4;
  const n = (y1 - y0) * acc.width;
  for (let c = 0; c < 3; c++)
    heap.k.mixByTrust(
      acc.ptr + c * acc.planeBytes + at,
      sums.ptr + c * sums.planeBytes + at,
      sums.ptr + 3 * sums.planeBytes + at,
      trust === undefined ? 0 : trust + at,
      n,
    );
}
