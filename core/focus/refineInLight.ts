import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import type { MotionModel } from "../align/motionModels";
import { registerPair } from "../align/registerPair";
import { templateOf } from "../align/template";
import type { Matrix3 } from "../raster/matrix3";

/** Bytes a px that refining takes: two pyramids of two levels. */
export const REFINING_BYTES = 2 * 4 * 1.25 + 1;

/**
 * A motion between two frames of another focus refined by light itself. Blur spreads the light of an edge evenly to both of its
 * sides, so that its middle stays; but the place where the logarithm of light is steepest moves into the dark as it widens. Edges of
 * logarithms therefore lie elsewhere the less sharp they are, and where bright things lie about a dark middle, all of them together
 * look like growth.
 *
 * @param known  of the first frame's px to the second's, nearly
 * @param light  mean light of either frame, on one scale: what flickered is evened by it
 */
export function refineInLight(heap: Heap, from: LogPyramid, to: LogPyramid, model: MotionModel, known: Matrix3, light: readonly [number, number]): number[] {
  if (model === "none") return [...known];
  const mark = heap.mark(), { transform } = registerPair(heap, templateOf(heap, inLight(heap, from, light[0])), inLight(heap, to, light[1]), model, known);
  heap.release(mark);
  return transform;
}

/** The two finest levels of a pyramid as light. A difference of a part of the mean counts as one of as many EV would there. */
function inLight(heap: Heap, { levels }: LogPyramid, mean: number): LogPyramid {
  const [first, second] = levels, { w, h } = first!, log = heap.alloc(w * h * 4 + 16);
  heap.k.lightOf(first!.log, w * h, 1 / (mean * Math.LN2), log);
  if (!second) return { levels: [{ ...first!, log }] };
  const half = heap.alloc(second.w * second.h * 4 + 16);
  heap.k.pyrDown(log, w, h, half, heap.alloc(w * 4 + 64), 0, second.h);
  return { levels: [{ ...first!, log }, { ...second, log: half }] };
}
