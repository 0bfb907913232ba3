import { SAMPLE_BYTES, SAMPLE_KIND, type Heap, type SampleType } from "../../kernels/heap";
import { isIdentity, project, type Matrix3 } from "../raster/matrix3";
import type { NoiseModel } from "../align/logPyramid";

/** Where a merge gathers: planes R, G, B and weight, `planeBytes` apart, of one width. */
export interface Accumulator { ptr: number; planeBytes: number; width: number; height: number }
export const planeBytesOf = (width: number, height: number): number => Math.ceil((width * height * 4 + 64) / 64) * 64;

export interface FoldInput {
  /** RGB samples of the whole frame, interleaved, at this address */
  samples: number; type: SampleType; width: number; height: number;
  /** three tables, one after the other, from sample to linear; empty for floats, which are linear */
  lut: Float32Array;
  /** reference px to frame px at this size */
  fromReference: Matrix3;
  /** EV against the reference */
  ev: number;
  noise: NoiseModel;
  /** begins the sums: the reference frame, which lies on every pixel */
  first?: boolean;
  /** votes over moving things, on a grid of `scale` px */
  ghosts?: { width: number; height: number; scale: number; votes: Uint8Array };
}

/**
 * Folds rows y0 to y1 of one exposure into the accumulator.
 *
 * Each sample votes with the inverse of its variance under photon and read noise, so the brightest unclipped frame
 * dominates the shadows and a clipped sample has no vote. Where every frame is clipped, the darkest decides.
 *
 * @see Granados et al., "Optimal HDR reconstruction with linear digital cameras", CVPR 2010
 */
export function foldFrame(heap: Heap, acc: Accumulator, input: FoldInput, y0: number, y1: number): void {
  const outer = heap.mark();
  const { k } = heap;
  const lut = heap.put(input.lut);
  const h = heap.put(input.fromReference, "f64");
  const time = 2 ** input.ev;
  // the last resort where all are clipped: far below any real vote, and steeply in favour of the darker frame
  const floorVote = FALLBACK * 16 ** -input.ev;
  const bytes = SAMPLE_BYTES[input.type] * 3, kind = SAMPLE_KIND[input.type];
  const ghostRow = input.ghosts ? heap.alloc(acc.width * 4 + 64) : 0;
  const args = [time, 1 / input.noise.gain, input.noise.read ** 2, floorVote] as const;
  const fold = (row: number, y: number, x0: number, n: number): void => {
    const votes = input.ghosts && ghostVotes(heap, input.ghosts, y, x0, n, ghostRow) ? ghostRow : 0;
    k.foldRow(row, n, votes, input.first ? 1 : 0, acc.ptr, acc.planeBytes, (y * acc.width + x0) * 4, ...args);
  };
  if (isIdentity(input.fromReference)) {
    const row = heap.alloc(acc.width * 16 + 128) + 16;
    for (let y = y0; y < y1; y++) {
      k.linearise(input.samples + y * input.width * bytes, kind, acc.width, lut, row);
      repeatEnds(heap, row, acc.width, 1, 1);
      fold(row, y, 0, acc.width);
    }
  } else {
    const row = heap.alloc((TILE + 8) * 16) + 16, runs = heap.alloc((TILE / 16 + 1) * 8);
    for (let b0 = y0; b0 < y1; b0 += TILE_ROWS) for (let x0 = 0; x0 < acc.width; x0 += TILE) {
      const b1 = Math.min(y1, b0 + TILE_ROWS), x1 = Math.min(acc.width, x0 + TILE);
      const source = sourceTile(input, x0 - 1, b0, x1 + 1, b1);
      if (!source) continue;
      const inner = heap.mark();
      let tile: number | undefined;
      for (let y = b0; y < b1; y++) {
        const count = k.worthwhileRuns(acc.ptr, acc.planeBytes, (y * acc.width + x0) * 4, x1 - x0, time, args[1], args[2], runs);
        if (!count) continue;
        tile ??= linearTile(heap, input, source, lut);
        const ends = heap.i32(runs, count * 2);
        for (let r = 0; r < count; r++) {
          const a = x0 + ends[r * 2]!, b = x0 + ends[r * 2 + 1]!, before = a > 0 ? 1 : 0, behind = b < acc.width ? 1 : 0;
          k.resampleBicubic(tile, source.left, source.top, source.width, input.width, input.height, y, a - before, before + b - a + behind, h, row - before * 16);
          repeatEnds(heap, row, b - a, 1 - before, 1 - behind);
          fold(row, y, a, b - a);
        }
      }
      heap.release(inner);
    }
  }
  heap.release(outer);
}

/** Vote of a clipped or held back sample at the reference's exposure, so that no pixel is left without a value. */
const FALLBACK = 1e-20;
/** Weights below this come from such votes only: a clipped frame says "at least so bright", and no other was asked. */
export const MEASURED = 1e-7;
/** A tile's source fits the second-level cache, whatever the frame's roll. */
export const TILE = 512, TILE_ROWS = 48;

export interface SourceTile { left: number; top: number; width: number; height: number }

/** A part of the frame as linear samples with eroded validity; what lies outside the frame repeats its edge. */
export function linearTile(heap: Heap, input: Pick<FoldInput, "samples" | "type" | "width" | "height">, { left, top, width, height }: SourceTile, lut: number): number {
  const tile = heap.alloc(width * height * 16 + 64), bytes = SAMPLE_BYTES[input.type] * 3;
  const from = Math.max(0, left), n = Math.min(input.width, left + width) - from;
  for (let y = 0; y < height; y++) {
    const line = tile + (y * width + from - left) * 16, v = Math.max(0, Math.min(input.height - 1, top + y));
    heap.k.linearise(input.samples + (v * input.width + from) * bytes, SAMPLE_KIND[input.type], n, lut, line);
    repeatEnds(heap, line, n, from - left, left + width - from - n);
  }
  heap.k.erodeValidity(tile, width, height);
  return tile;
}

/** What part of the frame the pixels x0..x1, y0..y1 are sampled from, with the kernel's margin, which may lie outside; undefined if none. */
export function sourceTile(input: Pick<FoldInput, "fromReference" | "width" | "height">, x0: number, y0: number, x1: number, y1: number): SourceTile | undefined {
  const corners = [[x0, y0], [x1, y0], [x0, y1], [x1, y1]].map(([x, y]) => project(input.fromReference, x!, y!));
  const xs = corners.map((c) => c[0]), ys = corners.map((c) => c[1]);
  const left = Math.max(-3, Math.floor(Math.min(...xs)) - 4), right = Math.min(input.width + 3, Math.ceil(Math.max(...xs)) + 4);
  const top = Math.max(-3, Math.floor(Math.min(...ys)) - 4), bottom = Math.min(input.height + 3, Math.ceil(Math.max(...ys)) + 4);
  return right > Math.max(0, left) && bottom > Math.max(0, top) && left < input.width && top < input.height ? { left, top, width: right - left, height: bottom - top } : undefined;
}

/** Repeats the first and last of a row of n samples `before` and `behind` times beyond its ends. */
function repeatEnds(heap: Heap, row: number, n: number, before: number, behind: number): void {
  const at = heap.f32(row - before * 16, (before + n + behind) * 4);
  for (let i = 0; i < before; i++) at.copyWithin(i * 4, before * 4, before * 4 + 4);
  for (let i = before + n; i < before + n + behind; i++) at.copyWithin(i * 4, (before + n - 1) * 4, (before + n) * 4);
}

/** Scratch that foldFrame takes for one call, for motions of up to some ten degrees. */
export function foldScratch(width: number, sampleType: SampleType): number {
  return 3 * (sampleType === "u16" ? 65536 : 256) * 4 + width * 24 + (TILE + 128) * (TILE_ROWS + 160) * 16 + (1 << 16);
}

/** The votes of a row's pixels left .. left + width, bilinear, to `dst`; false where nothing moved in them. */
export function ghostVotes(heap: Heap, { votes, width: gw, height: gh, scale }: NonNullable<FoldInput["ghosts"]>, y: number, left: number, width: number, dst: number): boolean {
  const gy = Math.max(0, Math.min(gh - 1.001, (y + 0.5) / scale - 0.5)), y0 = Math.floor(gy), mark = heap.mark();
  const a = heap.putBytes(votes.subarray(y0 * gw, (y0 + 1) * gw)), b = heap.putBytes(votes.subarray(Math.min(gh - 1, y0 + 1) * gw, (Math.min(gh - 1, y0 + 1) + 1) * gw));
  const moved = heap.k.voteRow(a, b, gw, gy - y0, left, width, scale, dst) > 0;
  heap.release(mark);
  return moved;
}
