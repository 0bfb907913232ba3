import type { Heap } from "../../kernels/heap";
import { logPyramid, type LogPyramid, type ReducedFrame } from "../align/logPyramid";
import type { MotionModel } from "../align/motionModels";
import { registerPair } from "../align/registerPair";
import { TEMPLATE_BYTES, templateOf } from "../align/template";
import { invert, type Matrix3 } from "../math/matrix3";
import { DISPLACED_BYTES, displacedEdges, type EdgeArea } from "./displacedEdges";
import type { FrameSignature } from "./frameSignature";
import { explainedShare } from "./cellLight";
import { refineInLight, REFINING_BYTES } from "./refineInLight";

/**
 * Two frames of a focus run, with what each shows by itself: what flickered is evened by its mean
 * light.
 */
export interface RunPair {
  frames: readonly [ReducedFrame, ReducedFrame];
  signatures: readonly [
    Pick<FrameSignature, "light" | "cells">,
    Pick<FrameSignature, "light" | "cells">,
  ];
  model: MotionModel;
}
/** How two frames lie against each other, px to px, reduced. */
export interface ThereAndBack {
  there: number[];
  back: number[];
}
/**
 * The same of neighbours; whether they show the same things at all; edges that lie elsewhere in the
 * second.
 */
export interface Neighbours extends ThereAndBack {
  fit: boolean;
  displaced: EdgeArea[];
}
/**
 * Share of cells whose light is explained from which on two frames show the same things. Of runs'
 * neighbours at least 0.95 are, where a leg moved; of other scenes' up to 0.78.
 */
const SAME_SCENE = 0.86;

const through = <T>(
  heap: Heap,
  pair: RunPair,
  work: (from: LogPyramid, to: LogPyramid) => T,
): T => {
  const mark = heap.mark();
  const done = work(logPyramid(heap, pair.frames[0], 0), logPyramid(heap, pair.frames[1], 0));
  heap.release(mark);
  return done;
};

/**
 * Registers neighbours along the focus travel, of which nothing is known: by the logarithms of
 * light, then by light itself.
 *
 * @param scale  full-size px a px of the reduced frames
 */
export function registerNeighbours(heap: Heap, pair: RunPair, scale: number): Neighbours {
  return through(heap, pair, (from, to) => {
    const [a, b] = pair.signatures;
    const found = registerPair(heap, templateOf(heap, from), to, pair.model);
    const there = refineInLight(heap, from, to, pair.model, found.transform, [a.light, b.light]);
    const fit = explainedShare(a.cells, b.cells, there, Math.log2(b.light / a.light)) > SAME_SCENE;
    return {
      there,
      back: backFrom(heap, pair, from, to, there),
      fit,
      displaced: displacedEdges(heap, [from, to], found.offset, there, scale),
    };
  });
}

/** How frames lie on each other by their light, where that is known nearly. */
export const linkInLight = (heap: Heap, pair: RunPair, start: Matrix3): ThereAndBack =>
  through(heap, pair, (from, to) => {
    const there = refineInLight(heap, from, to, pair.model, start, [
      pair.signatures[0].light,
      pair.signatures[1].light,
    ]);
    return { there, back: backFrom(heap, pair, from, to, there) };
  });

const backFrom = (
  heap: Heap,
  { model, signatures: [a, b] }: RunPair,
  from: LogPyramid,
  to: LogPyramid,
  there: Matrix3,
): number[] => refineInLight(heap, to, from, model, invert(there), [b.light, a.light]);

/** Scratch that two frames of so many px take. */
export const pairScratch = (px: number): number =>
  2 * px * 8 * 1.4 + px * (16 + DISPLACED_BYTES + REFINING_BYTES) + 2 * TEMPLATE_BYTES + (1 << 23);
