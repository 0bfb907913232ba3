import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import type { GridLines } from "./finish";

/** Radius of the windows in which values are a line in log luminance, cells. */
const WINDOW = 3;
/** Variance of log luminance under which a window is flat. */
const FLAT = 0.02;

/** Bytes of the lines of a grid. */
export const linesBytes = ({ width, height }: { width: number; height: number }): number =>
  2 * (width * height * 4 + 64);

/**
 * Values on a grid as lines in log luminance, which carry them to any size along its edges.
 *
 * @param values  address of w x h floats; kept
 * @param light   address of log2 luminance on the same grid
 * @param at      where slopes and offsets go
 * @see He, Sun, Tang, "Guided image filtering", TPAMI 2013
 */
export function fitLines(
  heap: Heap,
  values: number,
  light: number,
  width: number,
  height: number,
  at: number,
): GridLines {
  const n = width * height;
  const mark = heap.mark();
  const products = heap.alloc(n * 4 + 64);
  const squares = heap.alloc(n * 4 + 64);
  const spare = heap.alloc(n * 4 + 64);
  heap.k.guidedProducts(values, light, 0, n, 0, spare, spare, squares, products);
  const mean = (plane: number): number => boxMean(heap, plane, width, height, WINDOW);
  const slope = mean(products);
  const offset = mean(values);
  heap.k.guidedLines(0, mean(light), offset, mean(squares), slope, n, FLAT);
  const slopes = at;
  const offsets = at + n * 4 + 64;
  heap.f32(slopes, n).set(heap.f32(boxMean(heap, slope, width, height, 2), n));
  heap.f32(offsets, n).set(heap.f32(boxMean(heap, offset, width, height, 2), n));
  heap.release(mark);
  return { width, height, slopes, offsets };
}

/** Values on a grid as they are, whatever the light: lines without a slope. */
export function flatLines(
  heap: Heap,
  values: Float32Array,
  width: number,
  height: number,
  at: number,
): GridLines {
  const n = width * height;
  heap.f32(at, n).fill(0);
  const offsets = at + n * 4 + 64;
  heap.f32(offsets, n).set(values);
  return { width, height, slopes: at, offsets };
}
