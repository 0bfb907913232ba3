import type { Heap } from "../../kernels/heap";
import { logPyramid, type LogPyramid, type ReducedFrame } from "../align/logPyramid";
import { cellLight, type CellLight } from "./cellLight";
import { sharpMap, type SharpMap } from "./sharpMap";

/**
 * What a frame of a focus run shows by itself: where it is sharp, its mean light, and light in
 * cells.
 */
export interface FrameSignature {
  map: SharpMap;
  light: number;
  cells: CellLight;
}

/** Blur moves light about but loses none: the mean of the whole tells flicker best. */
export function lookAt(heap: Heap, frame: ReducedFrame): FrameSignature {
  const mark = heap.mark();
  const p = logPyramid(heap, frame, 0);
  const signature = {
    map: sharpMap(heap, p),
    light: meanLight(heap, p),
    cells: cellLight(heap, p),
  };
  heap.release(mark);
  return signature;
}

/**
 * The same frame's sharpness once it lies on the reference.
 *
 * @param toReference  its px to the reference's, reduced
 */
export function warpedSharpness(
  heap: Heap,
  frame: ReducedFrame,
  toReference: readonly number[],
): SharpMap {
  const mark = heap.mark();
  const map = sharpMap(heap, logPyramid(heap, frame, 0), toReference);
  heap.release(mark);
  return map;
}

/** Mean light over the middle of a frame. */
function meanLight(heap: Heap, { levels }: LogPyramid): number {
  const { w, h, log } = levels[Math.min(2, levels.length - 1)]!;
  const L = heap.f32(log, w * h);
  let sum = 0;
  let n = 0;
  for (let y = Math.floor(h * 0.06); y < h * 0.94; y++)
    for (let x = Math.floor(w * 0.06); x < w * 0.94; x++, n++) sum += 2 ** L[y * w + x]!;
  return sum / n;
}

/** Scratch that looking at a frame of so many px takes. */
export const lookScratch = (px: number): number => px * (8 * 1.4 + 4) + (1 << 20);
