import {
  CELL_PLANES,
  fillCells,
  fillHoles,
  measureCells,
  type Fill,
  type Holes,
} from "../../core/bracket/fillHoles";
import { foldFrame, type FoldInput } from "../../core/bracket/foldFrame";
import { type Accumulator } from "../../core/raster/accumulator";
import { sourceShares } from "../../core/maps/maps";
import { mergeSuspects } from "../../core/suspects/mergeSuspects";
import type { StepContext } from "../stepContext";

/** What merging a bracket asks of a worker. */
export const mergeTasks = {
  /**
   * Notes where a frame weighs more than any before it: its weight is what it added to the sums, or
   * a plane of its own.
   */
  claim(
    { heap }: StepContext,
    a: {
      weights: number;
      cumulative: boolean;
      before: number;
      most: number;
      sources: number;
      frame: number;
      width: number;
      y0: number;
      y1: number;
    },
  ) {
    const at = a.y0 * a.width;
    const n = (a.y1 - a.y0) * a.width;
    const W = heap.f32(a.weights + at * 4, n);
    const before = heap.f32(a.before + at * 4, n);
    const most = heap.f32(a.most + at * 4, n);
    const sources = heap.u8(a.sources + at, n);
    for (let i = 0; i < n; i++) {
      const own = a.cumulative ? W[i]! - before[i]! : W[i]!;
      if (own > most[i]!) {
        most[i] = own;
        sources[i] = a.frame + 1;
      }
      before[i] = W[i]!;
    }
  },

  fold({ heap }: StepContext, a: { acc: Accumulator; input: FoldInput; y0: number; y1: number }) {
    heap.ensure(a.acc.ptr + a.acc.planeBytes * 4);
    foldFrame(heap, a.acc, a.input, a.y0, a.y1);
  },

  finalise(
    { heap }: StepContext,
    a: { acc: Accumulator; matrix: number[]; y0: number; y1: number },
  ) {
    const m = heap.put(a.matrix);
    heap.k.finaliseRadiance(
      a.acc.ptr + a.y0 * a.acc.width * 4,
      a.acc.planeBytes,
      (a.y1 - a.y0) * a.acc.width,
      m,
    );
  },

  measureCells(
    { heap }: StepContext,
    a: { acc: Accumulator; holes: Holes; g0: number; g1: number },
  ) {
    return measureCells(heap, a.acc, a.holes, a.g0, a.g1);
  },

  fillCells(
    _: StepContext,
    { parts, holes }: { parts: { g0: number; g1: number; cells: Float32Array }[]; holes: Holes },
  ) {
    const { width, height } = holes;
    const all = new Float32Array(width * height * CELL_PLANES);
    for (const { g0, g1, cells } of parts)
      for (let c = 0; c < CELL_PLANES; c++)
        all.set(
          cells.subarray(c * width * (g1 - g0), (c + 1) * width * (g1 - g0)),
          (c * height + g0) * width,
        );
    return fillCells(all, holes);
  },

  fillHoles(
    { heap }: StepContext,
    a: { acc: Accumulator; holes: Holes; fill: Fill; y0: number; y1: number },
  ) {
    fillHoles(heap, a.acc, a.holes, a.fill, a.y0, a.y1);
  },
  sourceShares({ heap }: StepContext, a: { sources: number; n: number; frames: number }) {
    return sourceShares(heap, a.sources, a.n, a.frames);
  },

  mergeSuspects(
    { heap }: StepContext,
    a: { acc: Accumulator; frames: Parameters<typeof mergeSuspects>[2]; downscale: number },
  ) {
    return mergeSuspects(heap, a.acc, a.frames, a.downscale);
  },
};
