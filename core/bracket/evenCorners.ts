import type { Heap } from "../../kernels/heap";
import { decode, SPACES } from "../colour/spaces";
import type { Matrix3 } from "../math/matrix3";

/** Code values that share a slope of the curve. */
const EACH = 256;
/** By how many EV an sRGB code value changes with an EV of light, for every 256 of 65536 codes. */
const SLOPES = Float32Array.from({ length: 65536 / EACH }, (_, i) => {
  const v = Math.min(1, ((i + 0.5) * EACH) / 65536);
  const step = 1e-4;
  const light = (x: number): number => Math.log2(decode(SPACES.srgb.curve, x));
  return Math.log2((v + step) / (v - step)) / (light(v + step) - light(v - step));
});

/** A picture warped from a frame; the way from its px to the frame's, and the frame's size there. */
export interface Cornered {
  ptr: number;
  width: number;
  height: number;
  toFrame: Matrix3;
  frame: { width: number; height: number };
  /** EV at the frame's corner, 0 at its middle and squared between */
  ev: number;
}

/**
 * Lightens rows y0 to y1 of an sRGB picture of 16 bit towards the corners of the frame it was warped
 * from.
 */
export function evenCorners(
  heap: Heap,
  { ptr, width, toFrame, frame, ev }: Cornered,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  heap.k.evenCorners(
    ptr,
    width,
    y0,
    y1,
    heap.put([...toFrame], "f64"),
    frame.width / 2,
    frame.height / 2,
    4 / (frame.width ** 2 + frame.height ** 2),
    ev,
    heap.put(SLOPES),
  );
  heap.release(mark);
}
