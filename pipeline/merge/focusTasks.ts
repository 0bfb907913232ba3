import { type WarpedFrame } from "../../core/bracket/mertens";
import { depthGrid, type DepthGrid } from "../../core/focus/depthGrid";
import { depthMap, UNKNOWN_DEPTH, peakBeside, type SharpLevel } from "../../core/focus/depthMap";
import { type Accumulator } from "../../core/raster/accumulator";
import { sceneSharpShare, type RunSharpness } from "../../core/focus/sharpMap";
import { mixDepth, spreadPlane } from "../../core/focus/alongDepth";
import {
  averageCoarsest,
  coarseSharpness,
  focusShape,
  halveFrame,
  holdInRange,
  keepBest,
  chooseCoarser,
  chooseFinest,
  type FocusSums,
  type FrameRange,
  type Won,
} from "../../core/focus/sharpest";
import { collapse } from "../../core/raster/pyramid";
import { doubledEdges, softBands } from "../../core/suspects/focusSuspects";
import { fusionHalos } from "../../core/suspects/fusionHalos";
import { clamp } from "../../core/math/clamp";
import type { StepContext } from "../stepContext";

/** What merging a focus run asks of a worker. */
export const focusTasks = {
  halveFrame(
    { heap }: StepContext,
    a: { frame: WarpedFrame; sums: FocusSums; y0: number; y1: number },
  ) {
    const { bytes } = focusShape(a.frame.width, a.frame.height);
    for (const at of [...a.sums.own, a.sums.greys]) heap.ensure(at + bytes);
    halveFrame(heap, a.frame, a.sums, a.y0, a.y1);
  },
  coarseSharpness({ heap }: StepContext, a: { frame: WarpedFrame; sums: FocusSums }) {
    heap.ensure(a.sums.energy + focusShape(a.frame.width, a.frame.height).bytes);
    coarseSharpness(heap, a.frame, a.sums);
  },
  chooseFinest(
    { heap }: StepContext,
    a: { frame: WarpedFrame; acc: Accumulator; sums: FocusSums; won: Won; y0: number; y1: number },
  ) {
    chooseFinest(heap, a.frame, a.acc, a.sums, a.won, a.y0, a.y1);
  },
  chooseCoarser(
    { heap }: StepContext,
    a: { width: number; height: number; channel: number; sums: FocusSums },
  ) {
    chooseCoarser(heap, a.width, a.height, a.channel, a.sums);
  },
  holdInRange(
    { heap }: StepContext,
    a: { acc: Accumulator; range: FrameRange; y0: number; y1: number },
  ) {
    holdInRange(heap, a.acc, a.range, a.y0, a.y1);
  },
  keepBest({ heap }: StepContext, a: { width: number; height: number; sums: FocusSums; won: Won }) {
    keepBest(heap, a.width, a.height, a.sums, a.won);
  },
  /** Greys of every 2^level-th pixel of a fused picture. */
  depthGuide(
    { heap }: StepContext,
    a: { acc: Accumulator; level: number; w: number; h: number; guide: number },
  ) {
    const { acc } = a;
    const step = 2 ** a.level;
    const [R, G, B] = [0, 1, 2].map((c) =>
      heap.f32(acc.ptr + c * acc.planeBytes, acc.width * acc.height),
    ) as [Float32Array, Float32Array, Float32Array];
    heap.ensure(a.guide + a.w * a.h * 4);
    const guide = heap.f32(a.guide, a.w * a.h);
    for (let y = 0, i = 0; y < a.h; y++)
      for (let x = 0, line = Math.min(acc.height - 1, y * step) * acc.width; x < a.w; x++, i++) {
        const k = line + Math.min(acc.width - 1, x * step);
        guide[i] = 0.25 * R[k]! + 0.5 * G[k]! + 0.25 * B[k]!;
      }
  },
  /** The map of depth of what is known on one level, to `depth` and `trust` there. */
  depthMap(
    { heap }: StepContext,
    a: { sharp: SharpLevel; order: readonly number[]; depth: number; trust: number },
  ): DepthGrid {
    const { w: width, h: height, sources, guide } = a.sharp;
    const n = width * height;
    const [total, best, lower, upper] = [
      a.sharp.total,
      a.sharp.best,
      a.sharp.lower,
      a.sharp.upper,
    ].map((p) => heap.f32(p, n)) as [Float32Array, Float32Array, Float32Array, Float32Array];
    const at = new Map(a.order.map((frame, k) => [frame, k]));
    heap.ensure(Math.max(a.depth, a.trust) + n * 4 + 64);
    const seen = heap.u8(sources, n);
    const place = Float32Array.from(seen, (s) => (s ? at.get(s - 1)! : UNKNOWN_DEPTH));
    const beside = place.map((_, i) => peakBeside(lower[i]!, best[i]!, upper[i]!));
    const found = depthMap(heap, {
      width,
      height,
      place,
      beside,
      best,
      mean: total.map((v) => v / a.order.length),
      guide: heap.f32(guide, n),
    });
    heap.f32(a.depth, n).set(found.depth);
    heap.f32(a.trust, n).set(found.trust);
    found.depth.forEach((d, i) => {
      if (seen[i]) seen[i] = a.order[clamp(Math.round(d), 0, a.order.length - 1)]! + 1;
    });
    return depthGrid(found, width, height);
  },
  spreadPlane(
    { heap }: StepContext,
    a: { from: number; level: number; width: number; height: number; to: number },
  ) {
    heap.ensure(a.to + a.width * a.height * 4 + 64);
    spreadPlane(heap, a.from, a.level, a, a.to);
  },
  addAlongDepth(
    { heap }: StepContext,
    a: { frame: WarpedFrame; k: number; depth: number; sums: Accumulator; y0: number; y1: number },
  ) {
    heap.ensure(a.sums.ptr + a.sums.planeBytes * 4);
    const { width } = a.frame;
    const n = (a.y1 - a.y0) * width;
    const at = a.y0 * width;
    heap.k.addAlongDepth(
      a.frame.ptr + at * 6,
      n,
      a.depth + at * 4,
      a.k,
      a.sums.ptr + at * 4,
      a.sums.planeBytes,
    );
  },
  mixDepth(
    { heap }: StepContext,
    a: { acc: Accumulator; sums: Accumulator; trust: number | undefined; y0: number; y1: number },
  ) {
    mixDepth(heap, a.acc, a.sums, a.trust, a.y0, a.y1);
  },
  collapseFocus(
    { heap }: StepContext,
    a: { width: number; height: number; taken: number; best: number },
  ) {
    averageCoarsest(heap, a.width, a.height, a.taken, a.best);
    collapse(heap, a.taken, focusShape(a.width, a.height));
  },
  /** A map of a coarser size laid out over the picture. */
  spreadSources(
    { heap }: StepContext,
    a: { from: number; w: number; h: number; to: number; width: number; height: number },
  ) {
    heap.ensure(a.to + a.width * a.height);
    const from = heap.u8(a.from, a.w * a.h);
    const to = heap.u8(a.to, a.width * a.height);
    for (let y = 0; y < a.height; y++)
      for (
        let x = 0, v = Math.min(a.h - 1, Math.floor((y * a.h) / a.height)) * a.w;
        x < a.width;
        x++
      )
        to[y * a.width + x] = from[v + Math.floor((x * a.w) / a.width)]!;
  },
  sharpShare(
    { heap }: StepContext,
    a: { acc: Accumulator; sharp: Pick<RunSharpness, "cells" | "top"> },
  ) {
    return sceneSharpShare(heap, a.acc, a.sharp);
  },
  softBands(
    { heap }: StepContext,
    a: {
      sources: number;
      width: number;
      height: number;
      downscale: number;
      run: Parameters<typeof softBands>[4];
    },
  ) {
    return softBands(heap.u8(a.sources, a.width * a.height), a.width, a.height, a.downscale, a.run);
  },
  doubledEdges(
    { heap }: StepContext,
    a: {
      sources: number;
      width: number;
      height: number;
      downscale: number;
      displaced: Parameters<typeof doubledEdges>[4];
      moved: Parameters<typeof doubledEdges>[5];
    },
  ) {
    return doubledEdges(
      heap.u8(a.sources, a.width * a.height),
      a.width,
      a.height,
      a.downscale,
      a.displaced,
      a.moved,
    );
  },
  fusionHalos(
    { heap }: StepContext,
    a: { acc: Accumulator; sources: number; order: readonly number[]; downscale: number },
  ) {
    return fusionHalos(heap, a.acc, a.sources, a.order, a.downscale);
  },
};
