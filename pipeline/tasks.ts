import type { Heap } from "../kernels/heap";
import { addUp } from "../core/raster/addUp";
import {
  estimateResponse,
  isBetter,
  respond,
  type ResponseCurve,
} from "../core/bracket/estimateResponse";
import { alignStack } from "../core/align/alignStack";
import { type AlignOptions } from "../core/align/alignedFrame";
import {
  CELL_PLANES,
  fillCells,
  fillHoles,
  measureCells,
  type Fill,
  type Holes,
} from "../core/bracket/fillHoles";
import { warpThroughLight } from "../core/bracket/warpThroughLight";
import {
  addCoarser,
  addFinest,
  fusedToScene,
  sumWeights,
  type Coarser,
  type WarpedFrame,
} from "../core/bracket/mertens";
import { depthGrid, type DepthGrid } from "../core/focus/depthGrid";
import { depthMap, UNKNOWN_DEPTH, peakBeside, type SharpLevel } from "../core/focus/depthMap";
import { evenCorners, type Cornered } from "../core/bracket/evenCorners";
import { warpEncoded, type EncodedInput } from "../core/bracket/warpEncoded";
import { foldFrame, type FoldInput } from "../core/bracket/foldFrame";
import { type Accumulator } from "../core/raster/accumulator";
import { focusOrder } from "../core/focus/focusOrder";
import { warpedSharpness, lookAt } from "../core/focus/frameSignature";
import { readRun, type AlignedRun } from "../core/focus/readRun";
import { linkInLight, registerNeighbours, type RunPair } from "../core/focus/runLinks";
import { sceneSharpShare, type RunSharpness, type SharpMap } from "../core/focus/sharpMap";
import { mixDepth, spreadPlane } from "../core/focus/alongDepth";
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
} from "../core/focus/sharpest";
import { collapse, reduceAll, type PyramidShape } from "../core/raster/pyramid";
import {
  toneField,
  toneFieldBytes,
  type ToneField,
  type ToneSettings,
} from "../core/tone/toneField";
import { markClipped } from "../core/tone/markClipped";
import {
  bytesPerPixel,
  renderStrip,
  type Planes,
  type PixelKind,
  type RenderSettings,
} from "../core/tone/renderStrip";
import { paintMap, sourceShares, type MapInput } from "../core/maps/maps";
import { haloSuspects } from "../core/suspects/haloSuspects";
import { doubledEdges, softBands } from "../core/suspects/focusSuspects";
import { fusionHalos } from "../core/suspects/fusionHalos";
import { mergeSuspects } from "../core/suspects/mergeSuspects";
import { sceneStatistics } from "../core/tone/sceneStatistics";
import { resizePlane, tapsFor } from "../core/raster/resize";
import { resizePicture } from "../core/raster/resizePicture";
import { basisBytes, fillBlack, toneBasis } from "../core/tone/toneBasis";
import { floorGrid, reduceToGrid, type ToneGrid } from "../core/tone/toneGrid";
import { panoramaTasks } from "./panorama/tasks";
import { prepareTasks } from "./prepare/tasks";
import type { LoadedFrame } from "./work";
import { clamp } from "../core/math/clamp";
import { memoryTasks } from "../runtime/memoryTasks";

export interface StepContext {
  heap: Heap;
}
type Region = { x: number; y: number; width: number; height: number };

/**
 * What the steps ask of a worker. Arguments and results are plain data; pixels stay in the shared
 * memory.
 */
export const stepTasks = {
  ...memoryTasks,
  ...panoramaTasks,
  ...prepareTasks,
  response(
    { heap }: StepContext,
    a: { frames: LoadedFrame[]; evs: number[] },
  ): ResponseCurve | undefined {
    const found = estimateResponse(
      a.frames.map(({ ptr, type, width, height, lut }, i) => ({
        samples: heap.samples(ptr, type, width * height * 3),
        type,
        lut,
        ev: a.evs[i]!,
      })),
    );
    return found && isBetter(found) ? found.curve : undefined;
  },

  align(
    { heap }: StepContext,
    a: {
      frames: LoadedFrame[];
      evs: (number | undefined)[];
      response?: ResponseCurve;
      options: AlignOptions;
    },
  ) {
    return alignStack(
      heap,
      a.frames.map((f) => ({ ...f, lut: respond(f.lut, a.response) })),
      a.evs,
      a.options,
    );
  },

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

  mergeSuspects(
    { heap }: StepContext,
    a: { acc: Accumulator; frames: Parameters<typeof mergeSuspects>[2]; downscale: number },
  ) {
    return mergeSuspects(heap, a.acc, a.frames, a.downscale);
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
  paintMap({ heap }: StepContext, a: MapInput) {
    return paintMap(heap, a);
  },
  sourceShares({ heap }: StepContext, a: { sources: number; n: number; frames: number }) {
    return sourceShares(heap, a.sources, a.n, a.frames);
  },
  haloSuspects({ heap }: StepContext, a: { grid: ToneGrid; field: ToneField; scale: number }) {
    return haloSuspects(heap, a.grid, a.field, a.scale);
  },

  copy({ heap }: StepContext, a: { from: number; to: number; bytes: number }) {
    heap.ensure(a.to + a.bytes);
    heap.u8(a.to, a.bytes).set(heap.u8(a.from, a.bytes));
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

  reduce(
    { heap }: StepContext,
    a: { scene: Accumulator; grid: Omit<ToneGrid, "floorEv">; g0: number; g1: number },
  ) {
    heap.ensure(a.grid.ptr + a.grid.width * a.grid.height * 4);
    reduceToGrid(heap, a.scene, a.grid, a.g0, a.g1);
  },

  floorGrid(
    { heap }: StepContext,
    a: { grid: Omit<ToneGrid, "floorEv">; noise: number; basis: number },
  ): ToneGrid {
    heap.ensure(a.basis + basisBytes(a.grid));
    const grid = { ...a.grid, floorEv: floorGrid(heap, a.grid, a.noise) };
    fillBlack(heap, grid, a.basis);
    return grid;
  },

  toneBasis({ heap }: StepContext, a: { grid: ToneGrid; basis: number; part: number }) {
    heap.ensure(a.basis + basisBytes(a.grid));
    toneBasis(heap, a.grid, a.basis, a.part);
  },

  tone(
    { heap }: StepContext,
    a: { grid: ToneGrid; basis: number; settings: ToneSettings; at: number },
  ): ToneField {
    heap.ensure(a.at + toneFieldBytes(a.grid));
    return toneField(heap, a.grid, a.basis, a.settings, a.at);
  },

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
  fusedToScene({ heap }: StepContext, a: { acc: Accumulator; y0: number; y1: number }) {
    fusedToScene(heap, a.acc, a.y0, a.y1);
  },

  lookAt({ heap }: StepContext, a: { frame: LoadedFrame }) {
    return lookAt(heap, a.frame);
  },
  focusOrder(_: StepContext, a: { maps: SharpMap[]; distances: (number | undefined)[] }) {
    return focusOrder(a.maps, a.distances);
  },
  registerNeighbours({ heap }: StepContext, a: { pair: RunPair; scale: number }) {
    return registerNeighbours(heap, a.pair, a.scale);
  },
  linkInLight({ heap }: StepContext, a: { pair: RunPair; start: readonly number[] }) {
    return linkInLight(heap, a.pair, a.start);
  },
  warpedSharpness(
    { heap }: StepContext,
    a: { frame: LoadedFrame; toReference: readonly number[] },
  ) {
    return warpedSharpness(heap, a.frame, a.toReference);
  },
  readRun(_: StepContext, a: AlignedRun) {
    return readRun(a);
  },
  sharpShare(
    { heap }: StepContext,
    a: { acc: Accumulator; sharp: Pick<RunSharpness, "cells" | "top"> },
  ) {
    return sceneSharpShare(heap, a.acc, a.sharp);
  },
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

  statistics({ heap }: StepContext, a: { grid: ToneGrid }) {
    return sceneStatistics(heap, a.grid);
  },

  /** A part of the scene at another size: rows y0 to y1 of its three planes. */
  resize(
    { heap }: StepContext,
    a: { scene: Accumulator; part: Region; to: Accumulator; y0: number; y1: number },
  ) {
    heap.ensure(Math.max(a.scene.ptr + a.scene.planeBytes * 3, a.to.ptr + a.to.planeBytes * 3));
    const { scene, part, to } = a;
    const across = tapsFor(scene.width, part.x, part.width / to.width, to.width, "triangle");
    const down = tapsFor(scene.height, part.y, part.height / to.height, to.height, "triangle");
    for (let c = 0; c < 3; c++)
      resizePlane(
        heap,
        scene.ptr + c * scene.planeBytes,
        scene.width,
        across,
        down,
        to.ptr + c * to.planeBytes,
        a.y0,
        a.y1,
      );
  },

  /** Which pixels of a region are covered, as bytes of 0 or 255, row by row. */
  coverage({ heap }: StepContext, a: { scene: Accumulator; region: Region; dst: number }) {
    const { scene, region } = a;
    const W = heap.f32(scene.ptr + 3 * scene.planeBytes, scene.width * scene.height);
    heap.ensure(a.dst + region.width * region.height);
    const out = heap.u8(a.dst, region.width * region.height);
    for (let y = 0; y < region.height; y++)
      for (let x = 0; x < region.width; x++)
        out[y * region.width + x] = W[(region.y + y) * scene.width + region.x + x]! > 0 ? 255 : 0;
  },

  /** Rows y0 to y1 of a smaller picture of the same coverage. */
  meanCoverage(
    { heap }: StepContext,
    a: {
      from: { ptr: number; width: number; height: number };
      to: { ptr: number; width: number; height: number };
      y0: number;
      y1: number;
    },
  ) {
    const { from, to } = a;
    const sx = from.width / to.width;
    const sy = from.height / to.height;
    const C = heap.u8(from.ptr, from.width * from.height);
    heap.ensure(to.ptr + to.width * to.height);
    const out = heap.u8(to.ptr, to.width * to.height);
    for (let y = a.y0; y < a.y1; y++)
      for (let x = 0; x < to.width; x++) {
        const x0 = Math.floor(x * sx);
        const y0 = Math.floor(y * sy);
        const x1 = Math.max(x0 + 1, Math.floor((x + 1) * sx));
        const y1 = Math.max(y0 + 1, Math.floor((y + 1) * sy));
        let sum = 0;
        for (let v = y0; v < y1; v++) for (let u = x0; u < x1; u++) sum += C[v * from.width + u]!;
        out[y * to.width + x] = Math.round(sum / ((x1 - x0) * (y1 - y0)));
      }
  },

  resizePicture(
    { heap }: StepContext,
    a: {
      from: { ptr: number; width: number; height: number };
      to: { ptr: number; width: number; height: number };
      kind: PixelKind;
      linear: boolean;
      y0: number;
      y1: number;
    },
  ) {
    for (const p of [a.from, a.to]) heap.ensure(p.ptr + p.width * p.height * bytesPerPixel(a.kind));
    resizePicture(heap, a.from, a.to, a.kind, a.linear, a.y0, a.y1);
  },

  /** Renders rows y0..y1 of a region to their place in the picture at `dst`. */
  render(
    { heap }: StepContext,
    a: {
      scene: Planes;
      field: ToneField;
      settings: RenderSettings;
      region: Region;
      kind: PixelKind;
      dst: number;
      y0: number;
      y1: number;
      /** whether to mark what is at either end; RGBA only */
      clipped?: boolean;
    },
  ) {
    const line = a.region.width * bytesPerPixel(a.kind);
    const at = a.dst + a.y0 * line;
    const part = { ...a.region, y: a.region.y + a.y0, height: a.y1 - a.y0 };
    heap.ensure(a.dst + a.y1 * line);
    renderStrip(heap, a.scene, a.field, a.settings, part, a.kind, at, 0, part.height);
    if (a.clipped) markClipped(heap.u8(at, part.height * line), part.width, part.x, part.y);
  },
};
export type StepTasks = typeof stepTasks;
