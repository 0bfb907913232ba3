import type { Heap } from "../../../kernels/heap";

/** Addresses of two planes of a reduced frame, w x h: log luminance, and how far it counts. */
export interface LogPlane {
  log: number;
  confidence: number;
  w: number;
  h: number;
}

/** The same planes as arrays over the heap. */
export interface LogValues {
  log: Float32Array;
  confidence: Float32Array;
  w: number;
  h: number;
}

/**
 * Makes the plane that ties are refined on: log luminance smoothed over five px each way, with the
 * weights 1, 2, 3, 2, 1. The slopes of a soft picture are mostly noise otherwise, which holds ties
 * where they were looked for first. What has no weight has no say.
 *
 * @param to  room for two planes, the confidences at the second
 */
export function tiePlane(heap: Heap, { log, confidence, w, h }: LogPlane, to: number): LogPlane {
  const n = w * h;
  const mark = heap.mark();
  heap.k.smoothWeighted(log, confidence, w, h, heap.alloc((w + 12) * 8), to);
  heap.f32(to + n * 4, n).set(heap.f32(confidence, n));
  heap.release(mark);
  return { log: to, confidence: to + n * 4, w, h };
}

/** The values of a plane. They move when the heap grows. */
export const valuesOf = (heap: Heap, { log, confidence, w, h }: LogPlane): LogValues => ({
  log: heap.f32(log, w * h),
  confidence: heap.f32(confidence, w * h),
  w,
  h,
});
