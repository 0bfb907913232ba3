import type { Accumulator } from "../../core/raster/accumulator";
import type { StepContext } from "../stepContext";

interface Weighed {
  acc: Accumulator;
  /** address of a plane beside it */
  weights: number;
  y0: number;
  y1: number;
}

/** What filling asks of a worker beside what panoramas do. */
export const fillTasks = {
  /** Keeps a merge's weights beside it and says in their place what is covered. */
  setWeightsAside({ heap }: StepContext, { acc, weights, y0, y1 }: Weighed) {
    heap.ensure(weights + acc.planeBytes);
    const n = (y1 - y0) * acc.width;
    const own = heap.f32(acc.ptr + 3 * acc.planeBytes + y0 * acc.width * 4, n);
    const aside = heap.f32(weights + y0 * acc.width * 4, n);
    let sum = 0;
    let covered = 0;
    for (let i = 0; i < n; i++) {
      const weight = (aside[i] = own[i]!);
      own[i] = weight > 0 ? 1 : 0;
      if (weight > 0) {
        sum += weight;
        covered++;
      }
    }
    return { sum, covered };
  },

  /** Gives a merge its weights back, and what was filled a weight of its own. */
  bringWeightsBack(
    { heap }: StepContext,
    { acc, weights, y0, y1, mean }: Weighed & { mean: number },
  ) {
    const n = (y1 - y0) * acc.width;
    const own = heap.f32(acc.ptr + 3 * acc.planeBytes + y0 * acc.width * 4, n);
    const aside = heap.f32(weights + y0 * acc.width * 4, n);
    for (let i = 0; i < n; i++) {
      const isFilled = aside[i] === 0 && own[i]! > 0;
      own[i] = isFilled ? mean : aside[i]!;
    }
  },
};
