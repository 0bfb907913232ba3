import { addUp } from "../../core/raster/addUp";
import { warpThroughLight } from "../../core/bracket/warpThroughLight";
import {
  addCoarser,
  addFinest,
  fusedToScene,
  sumWeights,
  type Coarser,
  type WarpedFrame,
} from "../../core/bracket/mertens";
import { evenCorners, type Cornered } from "../../core/bracket/evenCorners";
import { warpEncoded, type EncodedInput } from "../../core/bracket/warpEncoded";
import { type FoldInput } from "../../core/bracket/foldFrame";
import type { Outline } from "../../core/raster/coveredRectangle";
import { type Accumulator } from "../../core/raster/accumulator";
import { collapse, reduceAll, type PyramidShape } from "../../core/raster/pyramid";
import type { StepContext } from "../stepContext";

/** What fusing exposures asks of a worker. */
export const fusionTasks = {
  layThroughLight(
    { heap }: StepContext,
    a: {
      input: FoldInput;
      matrix: number[];
      gain: number;
      width: number;
      height: number;
      dst: number;
      y0: number;
      y1: number;
    },
  ) {
    heap.ensure(a.dst + a.width * a.height * 6 + 64);
    warpThroughLight(heap, a.input, a.matrix, a.gain, a, a.dst, a.y0, a.y1);
  },

  layEncoded(
    { heap }: StepContext,
    a: { input: EncodedInput; width: number; height: number; dst: number; y0: number; y1: number },
  ) {
    heap.ensure(a.dst + a.width * a.height * 6 + 64);
    warpEncoded(heap, a.input, a.width, a.dst, a.y0, a.y1);
  },

  evenCorners({ heap }: StepContext, a: { warped: Cornered; y0: number; y1: number }) {
    heap.ensure(a.warped.ptr + a.warped.width * a.warped.height * 6 + 64);
    evenCorners(heap, a.warped, a.y0, a.y1);
  },

  sumWeights(
    { heap }: StepContext,
    a: { frame: WarpedFrame; sum: number; y0: number; y1: number },
  ) {
    heap.ensure(a.sum + a.frame.width * a.frame.height * 4 + 64);
    if (a.frame.weights !== undefined)
      heap.ensure(a.frame.weights + a.frame.width * a.frame.height * 2 + 64);
    sumWeights(heap, a.frame, a.sum, a.y0, a.y1);
  },

  addFinest(
    { heap }: StepContext,
    a: {
      frame: WarpedFrame;
      sums: Accumulator;
      coarser: Coarser;
      /** of a block */
      bytes: number;
      shares: number | undefined;
      y0: number;
      y1: number;
    },
  ) {
    for (const at of [a.coarser.weights, ...a.coarser.own]) heap.ensure(at + a.bytes);
    if (a.shares !== undefined) heap.ensure(a.shares + a.frame.width * a.frame.height * 4);
    addFinest(heap, a.frame, a.sums, a.coarser, a.shares, a.y0, a.y1);
  },

  reduceLevels({ heap }: StepContext, a: { at: number; shape: PyramidShape }) {
    reduceAll(heap, a.at, a.shape);
  },
  addCoarser({ heap }: StepContext, a: { coarser: Coarser; shape: PyramidShape; channel: number }) {
    addCoarser(heap, a.coarser, a.shape, a.channel);
  },
  collapseLevels({ heap }: StepContext, a: { at: number; shape: PyramidShape }) {
    collapse(heap, a.at, a.shape);
  },
  addUp(
    { heap }: StepContext,
    a: { acc: Accumulator; coarser: readonly number[]; y0: number; y1: number },
  ) {
    addUp(heap, a.acc, a.coarser, a.y0, a.y1);
  },
  fusedToScene(
    { heap }: StepContext,
    a: { acc: Accumulator; y0: number; y1: number; outline?: Outline },
  ) {
    fusedToScene(heap, a.acc, a.y0, a.y1, a.outline);
  },
};
