import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import type { MotionModel } from "../align/motionModels";
import { registerPair, type Loss } from "../align/registerPair";
import { templateOf } from "../align/template";
import type { Matrix3 } from "../math/matrix3";
import { collapse, differences, pyramidShape, reduceAll } from "../raster/pyramid";

/** Bytes a px that refining takes: two pyramids of light, and a little room. */
export const REFINING_BYTES = 2 * 4 * 1.4 + 1;

/**
 * Levels of detail that are looked at, up to some sixteen px: what is broader are the blurred
 * outlines of things out of focus, which widen from frame to frame.
 */
const DETAIL_LEVELS = 4;
/**
 * A blurred outline that widens fits to either side of it a little worse than what stays; it counts
 * for nothing if the loss is as narrow as what stays allows.
 */
const NARROW: Loss = { finest: 0.01, times: 2 };

/**
 * A motion between two frames of another focus refined by light itself. Blur spreads the light of
 * an edge evenly to both of its sides, so that its middle stays; but the place where the logarithm
 * of light is steepest moves into the dark as it widens. Edges of logarithms therefore lie
 * elsewhere the less sharp they are, and where bright things lie about a dark middle, all of them
 * together look like growth. Where a thing far out of focus stands before the scene, its outline
 * grows wider from frame to frame; how evenly to both sides is a matter of luck, so detail alone is
 * asked, closely.
 *
 * @param known  of the first frame's px to the second's, nearly
 * @param light  mean light of either frame, on one scale: what flickered is evened by it
 */
export function refineInLight(
  heap: Heap,
  from: LogPyramid,
  to: LogPyramid,
  model: MotionModel,
  known: Matrix3,
  light: readonly [number, number],
): number[] {
  if (model === "none") return [...known];
  const mark = heap.mark();
  const { transform } = registerPair(
    heap,
    templateOf(heap, inLight(heap, from, light[0])),
    inLight(heap, to, light[1]),
    model,
    known,
    NARROW,
  );
  heap.release(mark);
  return transform;
}

/**
 * The two finest levels of a pyramid as light, without what is broader than detail. A difference of
 * a part of the mean counts as one of as many EV would there.
 */
function inLight(heap: Heap, { levels }: LogPyramid, mean: number): LogPyramid {
  const { w, h, log } = levels[0]!;
  const shape = pyramidShape(w, h, DETAIL_LEVELS);
  const light = heap.alloc(shape.bytes);
  const broadest = shape.levels.at(-1)!;
  heap.k.lightOf(log, w * h, 1 / (mean * Math.LN2), light);
  reduceAll(heap, light, shape);
  if (shape.levels.length > DETAIL_LEVELS) {
    differences(heap, light, shape);
    heap.k.zero(light + broadest.at, broadest.w * broadest.h * 4);
    collapse(heap, light, shape);
  }
  return {
    levels: levels.slice(0, 2).map((level, i) => ({ ...level, log: light + shape.levels[i]!.at })),
  };
}
