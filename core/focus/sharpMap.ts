import type { Heap } from "../../kernels/heap";
import { reduceLevels, type LogPyramid } from "../align/logPyramid";
import { IDENTITY, rescale } from "../math/matrix3";
import type { Accumulator } from "../raster/accumulator";

/** Where a frame is sharp: log2 of its mean squared curvature on a coarse grid. */
export interface SharpMap {
  width: number;
  height: number;
  values: Float32Array;
}

/** Cells along the longer side. */
const CELLS = 32;

/** The map's size for a picture of w x h. */
export const sharpGrid = (w: number, h: number): { width: number; height: number } => ({
  width: Math.round(w >= h ? CELLS : (CELLS * w) / h),
  height: Math.round(w >= h ? (CELLS * h) / w : CELLS),
});

/**
 * The map of a picture whose log radiance is given.
 *
 * @param toMap  where its px lie in the map's picture, if that is another of the same size
 */
export function sharpMap(
  heap: Heap,
  { levels }: LogPyramid,
  toMap: readonly number[] = IDENTITY,
): SharpMap {
  const { w, h, log, confidence } = levels[Math.min(1, levels.length - 1)]!;
  const H = rescale(toMap, w / levels[0]!.w);
  const L = heap.f32(log, w * h);
  const V = heap.f32(confidence, w * h);
  const { width, height } = sharpGrid(w, h);
  const values = new Float32Array(width * height);
  const counts = new Float32Array(width * height);
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const z = H[6]! * x + H[7]! * y + H[8]!;
      const u = Math.floor(((H[0]! * x + H[1]! * y + H[2]!) / z / w) * width);
      const v = Math.floor(((H[3]! * x + H[4]! * y + H[5]!) / z / h) * height);
      const d = 4 * L[i]! - L[i - 1]! - L[i + 1]! - L[i - w]! - L[i + w]!;
      if (V[i]! < 0.05 || u < 0 || v < 0 || u >= width || v >= height) continue;
      const k = v * width + u;
      values[k]! += d * d;
      counts[k]!++;
    }
  return { width, height, values: values.map((v, k) => Math.log2((v + 1e-4) / (counts[k]! + 1))) };
}

/**
 * What a run's frames show at their sharpest: the cells whose sharpness the focus changes at all,
 * the most that any frame has there, and the share of them in which each frame is sharp.
 */
export interface RunSharpness {
  cells: number[];
  top: number[];
  shares: number[];
}

/**
 * How far focus has to change a cell for it to tell anything, and how near the sharpest counts as
 * sharp: about a third less contrast.
 */
const MIN_FOCUS_CHANGE = 2;
const SHARP_WITHIN = 1.2;

/** What a whole focus run shows sharply, from the maps of all its frames. */
export function runSharpness(maps: readonly SharpMap[]): RunSharpness {
  const cells: number[] = [];
  const top: number[] = [];
  maps[0]?.values.forEach((_, c) => {
    const all = maps.map((m) => m.values[c]!);
    const most = Math.max(...all);
    if (most - Math.min(...all) > MIN_FOCUS_CHANGE) {
      cells.push(c);
      top.push(Math.round(most * 1000) / 1000);
    }
  });
  return { cells, top, shares: maps.map((m) => sharpShare(m, { cells, top })) };
}

/**
 * The share of a run's telling cells in which a map is as sharp as the sharpest frame, or nearly.
 */
export const sharpShare = (
  { values }: SharpMap,
  { cells, top }: Pick<RunSharpness, "cells" | "top">,
): number =>
  cells.length
    ? cells.filter((c, k) => values[c]! > top[k]! - SHARP_WITHIN).length / cells.length
    : 0;

/** The same of a merged picture, at the size at which the frames were aligned. */
export function sceneSharpShare(
  heap: Heap,
  { ptr, planeBytes, width, height }: Accumulator,
  sharp: Pick<RunSharpness, "cells" | "top">,
): number {
  const mark = heap.mark();
  const n = width * height;
  const log = heap.alloc(n * 4 + 16);
  const confidence = heap.alloc(n * 4 + 16);
  const [R, G, B] = [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const L = heap.f32(log, n);
  heap.f32(confidence, n).fill(1);
  for (let i = 0; i < n; i++)
    L[i] = Math.log2(Math.max(5e-4, 0.25 * R[i]! + 0.5 * G[i]! + 0.25 * B[i]!));
  const share = sharpShare(
    sharpMap(heap, reduceLevels(heap, { w: width, h: height, log, confidence })),
    sharp,
  );
  heap.release(mark);
  return share;
}
/** Bytes of scratch for the sharpness map of a frame of so many px. */
export const sharpScratch = (px: number): number => px * 8 * 1.4 + (1 << 16);
