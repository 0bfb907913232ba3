import type { Heap } from "../../kernels/heap";
import { alignStack, type AlignOptions } from "../align/alignStack";
import { CELL_PLANES, fillCells, fillHoles, measureCells, type Fill, type Holes } from "../bracket/fillHoles";
import { foldFrame, type Accumulator, type FoldInput } from "../bracket/foldFrame";
import { localTone, toneFieldBytes, type ToneField, type ToneSettings } from "../tone/localTone";
import { markClipped } from "../tone/markClipped";
import { bytesPerPixel, renderStrip, type PixelKind, type RenderSettings } from "../tone/renderStrip";
import { sceneStatistics } from "../tone/sceneStatistics";
import { basisBytes, toneBasis } from "../tone/toneBasis";
import { reduceToGrid, type ToneGrid } from "../tone/toneGrid";
import type { HeldSamples } from "./work";

export interface StepContext { heap: Heap }
type Region = { x: number; y: number; width: number; height: number };

/** What the steps ask of a worker. Arguments and results are plain data; pixels stay in the shared memory. */
export const stepTasks = {
  align({ heap }: StepContext, a: { frames: HeldSamples[]; evs: (number | undefined)[]; options: AlignOptions }) {
    return alignStack(heap, a.frames, a.evs, a.options);
  },

  clear({ heap }: StepContext, a: { ptr: number; bytes: number }) {
    heap.ensure(a.ptr + a.bytes);
    heap.u8(a.ptr, a.bytes).fill(0);
  },

  fold({ heap }: StepContext, a: { acc: Accumulator; input: FoldInput; y0: number; y1: number }) {
    heap.ensure(a.acc.ptr + a.acc.planeBytes * 4);
    foldFrame(heap, a.acc, a.input, a.y0, a.y1);
  },

  finalise({ heap }: StepContext, a: { acc: Accumulator; matrix: number[]; y0: number; y1: number }) {
    const m = heap.put(a.matrix);
    heap.k.finaliseRadiance(a.acc.ptr + a.y0 * a.acc.width * 4, a.acc.planeBytes, (a.y1 - a.y0) * a.acc.width, m);
  },

  measureCells({ heap }: StepContext, a: { acc: Accumulator; holes: Holes; g0: number; g1: number }) { return measureCells(heap, a.acc, a.holes, a.g0, a.g1); },

  fillCells(_: StepContext, { parts, holes: { width, height } }: { parts: { g0: number; g1: number; cells: Float32Array }[]; holes: Holes }) {
    const all = new Float32Array(width * height * CELL_PLANES);
    for (const { g0, g1, cells } of parts) for (let c = 0; c < CELL_PLANES; c++) all.set(cells.subarray(c * width * (g1 - g0), (c + 1) * width * (g1 - g0)), (c * height + g0) * width);
    return fillCells(all, width, height);
  },

  fillHoles({ heap }: StepContext, a: { acc: Accumulator; holes: Holes; fill: Fill; y0: number; y1: number }) { fillHoles(heap, a.acc, a.holes, a.fill, a.y0, a.y1); },

  reduce({ heap }: StepContext, a: { scene: Accumulator; grid: ToneGrid; g0: number; g1: number }) {
    heap.ensure(a.grid.ptr + a.grid.width * a.grid.height * 4);
    reduceToGrid(heap, a.scene, a.grid, a.g0, a.g1);
  },

  toneBasis({ heap }: StepContext, a: { grid: ToneGrid; basis: number; part: number }) {
    heap.ensure(a.basis + basisBytes(a.grid));
    toneBasis(heap, a.grid, a.basis, a.part);
  },

  tone({ heap }: StepContext, a: { grid: ToneGrid; basis: number; settings: ToneSettings; at: number }): ToneField {
    heap.ensure(a.at + toneFieldBytes(a.grid));
    return localTone(heap, a.grid, a.basis, a.settings, a.at);
  },

  statistics({ heap }: StepContext, a: { grid: ToneGrid }) { return sceneStatistics(heap, a.grid); },

  /** Renders rows y0..y1 of a region. With `dst` into memory, else the bytes come back. */
  render({ heap }: StepContext, a: { scene: Accumulator; field: ToneField; settings: RenderSettings; region: Region; kind: PixelKind; dst?: number; y0: number; y1: number; clipped?: boolean }) {
    const bytes = (a.y1 - a.y0) * a.region.width * bytesPerPixel(a.kind);
    const part = { ...a.region, y: a.region.y + a.y0, height: a.y1 - a.y0 };
    if (a.dst !== undefined) heap.ensure(a.dst + a.y1 * a.region.width * bytesPerPixel(a.kind));
    const at = a.dst !== undefined ? a.dst + a.y0 * a.region.width * bytesPerPixel(a.kind) : heap.alloc(bytes + 64);
    renderStrip(heap, a.scene, a.field, a.settings, part, a.kind, at, 0, a.y1 - a.y0);
    if (a.dst !== undefined) return undefined;
    const pixels = heap.u8(at, bytes).slice();
    if (a.clipped) markClipped(pixels, a.region.width, part.x, part.y);
    return pixels;
  },
};
export type StepTasks = typeof stepTasks;
