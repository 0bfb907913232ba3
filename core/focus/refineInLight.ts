import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import type { MotionModel } from "../align/motionModels";
import { registerPair, type Registration } from "../align/registerPair";
import { templateOf } from "../align/template";

/** Bytes a px that refining takes: two pyramids of two levels. */
export const REFINING_BYTES = 2 * 4 * 1.25 + 1;

/**
 * A motion between two frames of another focus refined by light itself. Blur spreads the light of an edge evenly to both of its
 * sides, so that its middle stays; but the place where the logarithm of light is steepest moves into the dark as it widens. Edges of
 * logarithms therefore lie elsewhere the less sharp they are, and where bright things lie about a dark middle, all of them together
 * look like growth.
 *
 * @param light  mean light of either frame, on one scale: what flickered is evened by it
 */
export function refineInLight(heap: Heap, from: LogPyramid, to: LogPyramid, model: MotionModel, found: Registration, light: readonly [number, number]): Registration {
  if (model === "none") return found;
  const mark = heap.mark(), { transform } = registerPair(heap, templateOf(heap, inLight(heap, from, light[0])), inLight(heap, to, light[1]), model, found.transform);
  heap.release(mark);
  return { ...found, transform };
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
