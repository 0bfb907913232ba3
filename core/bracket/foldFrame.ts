import { SAMPLE_BYTES, SAMPLE_KIND, type Heap, type SampleType } from "../../kernels/heap";
import { isIdentity, type Matrix3 } from "../math/matrix3";
import { doubtRow, repeatEnds, TILE, TILE_ROWS, tileColumns, tileRows } from "../raster/sampleTile";
import type { Sampling } from "../raster/sampling";
import type { NoiseModel } from "../align/logPyramid";
import type { Accumulator } from "../raster/accumulator";

export interface FoldInput {
  /** RGB samples of the whole frame, interleaved, at this address */
  samples: number;
  type: SampleType;
  width: number;
  height: number;
  /** size in px of the blocks in which the samples were packed, if they were */
  block?: number;
  /**
   * three tables, one after the other, from sample to linear; empty for floats, which are linear
   */
  lut: Float32Array;
  /** how it is sampled where it moved */
  sampling?: Sampling;
  /** px round the frame in which its edges are repeated, as if it went on */
  beyond?: number;
  /** reference px to frame px at this size */
  fromReference: Matrix3;
  /** EV against the reference */
  ev: number;
  noise: NoiseModel;
  /** begins the sums: the reference frame, which lies on every pixel */
  first?: boolean;
  /**
   * confidences over moving things, on a grid of `scale` px, whose first row lies `top` rows above
   * the accumulator's
   */
  ghosts?: { width: number; height: number; scale: number; confidences: Uint8Array; top?: number };
}

/**
 * Folds rows y0 to y1 of one exposure into the accumulator.
 *
 * Each sample is weighted by the inverse of its variance under photon and read noise, so the
 * brightest unclipped frame dominates the shadows and a clipped sample has no weight. Where every
 * frame is clipped, the darkest decides.
 *
 * @see Granados et al., "Optimal HDR reconstruction with linear digital cameras", CVPR 2010
 */
export function foldFrame(
  heap: Heap,
  acc: Accumulator,
  input: FoldInput,
  y0: number,
  y1: number,
): void {
  const outer = heap.mark();
  const { k } = heap;
  const lut = heap.putTables(input.lut, input.type);
  const h = heap.put(input.fromReference, "f64");
  const time = 2 ** input.ev;
  // the last resort where all are clipped: far below any real confidence, and steeply in favour of
  // the darker frame
  const floorConfidence = FALLBACK * 16 ** -input.ev;
  const bytes = SAMPLE_BYTES[input.type] * 3;
  const kind = SAMPLE_KIND[input.type];
  const ghostRow = input.ghosts ? heap.alloc(acc.width * 4 + 64) : 0;
  const args = [time, 1 / input.noise.gain, input.noise.read ** 2, floorConfidence] as const;
  const fold = (row: number, y: number, x0: number, n: number): void => {
    const confidences =
      input.ghosts && ghostConfidence(heap, input.ghosts, y, x0, n, ghostRow) ? ghostRow : 0;
    k.foldRow(
      row,
      n,
      confidences,
      input.first ? 1 : 0,
      acc.ptr,
      acc.planeBytes,
      (y * acc.width + x0) * 4,
      ...args,
    );
  };
  if (isIdentity(input.fromReference)) {
    const row = heap.alloc(acc.width * 16 + 128) + 16;
    const flags = heap.alloc(input.width + 64);
    for (let y = y0; y < y1; y++) {
      k.linearise(input.samples + y * input.width * bytes, kind, acc.width, lut, row);
      doubtRow(heap, input, row, y, 0, acc.width, flags, y === y0);
      repeatEnds(heap, row, acc.width, 1, 1);
      fold(row, y, 0, acc.width);
    }
  } else {
    const row = heap.alloc((TILE + 8) * 16) + 16;
    const room = TILE / 16 + 1;
    const runs = heap.alloc(TILE_ROWS * room * 8);
    const columns = tileColumns(input.fromReference, acc);
    for (let b0 = y0; b0 < y1; b0 += TILE_ROWS)
      for (let x0 = 0; x0 < acc.width; x0 += columns) {
        const b1 = Math.min(y1, b0 + TILE_ROWS);
        const x1 = Math.min(acc.width, x0 + columns);
        const inner = heap.mark();
        const counts = Array.from({ length: b1 - b0 }, (_, r) =>
          k.worthwhileRuns(
            acc.ptr,
            acc.planeBytes,
            ((b0 + r) * acc.width + x0) * 4,
            x1 - x0,
            time,
            args[1],
            args[2],
            runs + r * room * 8,
          ),
        );
        const runsOf = (r: number): Int32Array => heap.i32(runs + r * room * 8, counts[r]! * 2);
        const wanted = counts.reduce(
          (s, _, r) => s + runsOf(r).reduce((t, v, q) => t + (q & 1 ? v : -v), 0),
          0,
        );
        const sample = wanted
          ? tileRows(
              heap,
              input,
              lut,
              h,
              { x0: x0 - 1, y0: b0, x1: x1 + 1, y1: b1 },
              wanted > 0.6 * (b1 - b0) * (x1 - x0),
              input.noise,
            )
          : undefined;
        if (sample)
          for (let y = b0; y < b1; y++) {
            const ends = runsOf(y - b0);
            for (let r = 0; r < counts[y - b0]!; r++) {
              const a = x0 + ends[r * 2]!;
              const b = x0 + ends[r * 2 + 1]!;
              const before = a > 0 ? 1 : 0;
              const behind = b < acc.width ? 1 : 0;
              sample(y, a - before, before + b - a + behind, row - before * 16);
              repeatEnds(heap, row, b - a, 1 - before, 1 - behind);
              fold(row, y, a, b - a);
            }
          }
        heap.release(inner);
      }
  }
  heap.release(outer);
}

/**
 * Confidence of a clipped or held back sample at the reference's exposure, so that no pixel is left
 * without a value.
 */
const FALLBACK = 1e-20;
/**
 * Weights below this come from such confidences only: a clipped frame says "at least so bright",
 * and no other was asked.
 */
export const MEASURED = 1e-7;
/** Scratch that foldFrame takes for one call, for motions of up to some ten degrees. */
export function foldScratch(width: number, sampleType: SampleType): number {
  return (
    3 * (sampleType === "u16" ? 65536 : 1024) * 4 +
    width * 26 +
    2 * (TILE + 128) * (TILE_ROWS + 160) * 16 +
    (1 << 16)
  );
}

/**
 * The confidences of a row's pixels left .. left + width, bilinear, to `dst`; false where nothing
 * moved in them.
 */
export function ghostConfidence(
  heap: Heap,
  { confidences, width: gw, height: gh, scale, top = 0 }: NonNullable<FoldInput["ghosts"]>,
  y: number,
  left: number,
  width: number,
  dst: number,
): boolean {
  const gy = Math.max(0, Math.min(gh - 1.001, (y + top + 0.5) / scale - 0.5));
  const y0 = Math.floor(gy);
  const mark = heap.mark();
  const a = heap.putBytes(confidences.subarray(y0 * gw, (y0 + 1) * gw));
  const b = heap.putBytes(
    confidences.subarray(Math.min(gh - 1, y0 + 1) * gw, (Math.min(gh - 1, y0 + 1) + 1) * gw),
  );
  const moved = heap.k.confidenceRow(a, b, gw, gy - y0, left, width, scale, dst) > 0;
  heap.release(mark);
  return moved;
}
