import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";

/**
 * Reconstruction filters by their reach in samples; all are widened when the picture becomes
 * smaller, so that nothing aliases.
 */
export const FILTERS = {
  /** bilinear; never leaves the range of its samples, which light of many EV needs */
  triangle: { reach: 1, at: (x: number) => Math.max(0, 1 - Math.abs(x)) },
  /** windowed sinc of three lobes (Duchon 1979): sharp, for pictures that are encoded already */
  lanczos3: {
    reach: 3,
    at: (x: number) => {
      if (x === 0) return 1;
      if (Math.abs(x) >= 3) return 0;
      return (3 * Math.sin(Math.PI * x) * Math.sin((Math.PI * x) / 3)) / (Math.PI * x) ** 2;
    },
  },
};
export type Filter = keyof typeof FILTERS;

/** Which samples of a line make which output: `taps` weights from each start on, summing to 1. */
export interface Taps {
  starts: Int32Array;
  weights: Float32Array;
  taps: number;
}

/**
 * Which source samples each output of a line is made of, and their weights.
 *
 * @param samples  length of the source line
 * @param from     where the first output begins, in source samples
 * @param step     source samples an output covers
 */
export function tapsFor(
  samples: number,
  from: number,
  step: number,
  outputs: number,
  filter: Filter,
): Taps {
  const { reach, at } = FILTERS[filter];
  const widen = Math.max(1, step);
  const taps = Math.min(samples, Math.ceil(reach * widen * 2) + 1);
  const starts = new Int32Array(outputs);
  const weights = new Float32Array(outputs * taps);
  for (let i = 0; i < outputs; i++) {
    const centre = from + (i + 0.5) * step - 0.5;
    const first = Math.ceil(centre - reach * widen);
    const start = clamp(first, 0, samples - taps);
    let sum = 0;
    const w = weights.subarray(i * taps, (i + 1) * taps);
    // what would lie beyond the border is the border's sample
    for (let s = first; s <= centre + reach * widen; s++) {
      const v = at((s - centre) / widen);
      w[clamp(s, 0, samples - 1) - start]! += v;
      sum += v;
    }
    for (let j = 0; j < taps; j++) w[j]! /= sum;
    starts[i] = start;
  }
  return { starts, weights, taps };
}

/**
 * Rows y0 to y1 of a plane at another size, separably: down first, then across.
 *
 * @param src   address of float samples, `width` a row
 * @param dst   address of the output's first row, `across.starts.length` samples a row
 */
export function resizePlane(
  heap: Heap,
  src: number,
  width: number,
  across: Taps,
  down: Taps,
  dst: number,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const n = across.starts.length;
  const row = heap.alloc(width * 4 + 16);
  const starts = heap.alloc(n * 4 + 16);
  const weights = heap.put(across.weights);
  const lines = heap.put(down.weights);
  heap.i32(starts, n).set(across.starts);
  for (let y = y0; y < y1; y++) {
    heap.k.weightedRows(
      src + down.starts[y]! * width * 4,
      width * 4,
      width,
      lines + y * down.taps * 4,
      down.taps,
      row,
    );
    heap.k.resizeAcross(row, starts, weights, across.taps, n, dst + y * n * 4);
  }
  heap.release(mark);
}
