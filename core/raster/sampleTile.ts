import { SAMPLE_BYTES, SAMPLE_KIND, type Heap, type SampleType } from "../../kernels/heap";
import type { NoiseModel } from "../align/logPyramid";
import { clamp } from "../math/clamp";
import { multiply, project, type Matrix3 } from "../math/matrix3";
import { tapWeights, type Sampling } from "./sampling";

/** A tile's source fits the second-level cache, whatever the frame's roll. */
export const TILE = 512;
export const TILE_ROWS = 48;

/**
 * A frame's samples, RGB interleaved, at this address; `block` is the size in px of the blocks in
 * which they were packed, if they were.
 */
export interface FrameSamples {
  samples: number;
  type: SampleType;
  width: number;
  height: number;
  block?: number;
  /** how it is sampled where it moved; bicubic if not said */
  sampling?: Sampling;
  /** px round the frame in which its edges are repeated, as if it went on */
  beyond?: number;
}
/** Bytes from which a sample counts as clipped. */
const CLIPPED_CODE = 250;
export interface SourceTile {
  left: number;
  top: number;
  width: number;
  height: number;
}
interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/**
 * Takes the confidence from what may be clipped though it does not look so, in row `v` of the
 * frame: n samples at `line` from px `from` on. The flags of its block's row lie at `flags` and are
 * made when `v` is the first row of a block or `again`.
 */
export function doubtRow(
  heap: Heap,
  { samples, type, width, height, block }: FrameSamples,
  line: number,
  v: number,
  from: number,
  n: number,
  flags: number,
  again: boolean,
): void {
  if (type !== "u8" || !block || block < 2) return;
  const top = v - (v % block);
  const first = Math.floor(from / block);
  const left = first * block;
  const right = Math.min(width, Math.ceil((from + n) / block) * block);
  if (again || v === top)
    heap.k.clippedBlocks(
      samples + (top * width + left) * 3,
      width * 3,
      right - left,
      Math.min(block, height - top),
      block,
      CLIPPED_CODE,
      flags + first,
    );
  heap.k.doubtBlocks(line, n, from, block, flags);
}

/** A part of the frame as linear samples; what lies outside the frame repeats its edge. */
export function linearTile(
  heap: Heap,
  input: FrameSamples,
  { left, top, width, height }: SourceTile,
  lut: number,
): number {
  const tile = heap.alloc(width * height * 16 + 64);
  const bytes = SAMPLE_BYTES[input.type] * 3;
  const from = clamp(left, 0, input.width - 1);
  const n = Math.max(1, Math.min(input.width, left + width) - from);
  // of a tile that lies wholly beside the frame only the frame's edge is read
  const before = clamp(from - left, 0, width - 1);
  const mark = heap.mark();
  const flags = heap.alloc(input.width + 64);
  for (let y = 0; y < height; y++) {
    const line = tile + (y * width + before) * 16;
    const v = Math.max(0, Math.min(input.height - 1, top + y));
    heap.k.linearise(
      input.samples + (v * input.width + from) * bytes,
      SAMPLE_KIND[input.type],
      n,
      lut,
      line,
    );
    doubtRow(heap, input, line, v, from, n, flags, y === 0);
    repeatEnds(heap, line, n, before, width - before - n);
  }
  heap.release(mark);
  return tile;
}

/**
 * What part of the frame the pixels of a box are sampled from, with the kernels' margin, which may
 * lie outside; undefined if none.
 */
function sourceTile(
  fromReference: Matrix3,
  { width, height, beyond = 0 }: FrameSamples,
  { x0, y0, x1, y1 }: Box,
): SourceTile | undefined {
  const margin = 3 + beyond;
  const corners = [
    [x0, y0],
    [x1, y0],
    [x0, y1],
    [x1, y1],
  ].map(([x, y]) => project(fromReference, x!, y!));
  const xs = corners.map((c) => c[0]);
  const ys = corners.map((c) => c[1]);
  const left = Math.max(-margin, Math.floor(Math.min(...xs)) - 4);
  const right = Math.min(width + margin, Math.ceil(Math.max(...xs)) + 4);
  const top = Math.max(-margin, Math.floor(Math.min(...ys)) - 4);
  const bottom = Math.min(height + margin, Math.ceil(Math.max(...ys)) + 4);
  return right > Math.max(-beyond, left) &&
    bottom > Math.max(-beyond, top) &&
    left < width + beyond &&
    top < height + beyond
    ? { left, top, width: right - left, height: bottom - top }
    : undefined;
}

/** Px of a frame that the scratch of a tile holds. */
const SOURCE_PX = (TILE + 120) * (TILE_ROWS + 150);

/**
 * Columns of a picture's tiles so that what they are sampled from fits in their scratch: all of
 * TILE unless the frame lies steeply rolled in the picture.
 */
export function tileColumns(
  toFrame: Matrix3,
  { width, height }: { width: number; height: number },
): number {
  let columns = TILE;
  for (const x of [0, width])
    for (const y of [0, height]) {
      const [u, v] = project(toFrame, x, y);
      const across = project(toFrame, x + 1, y);
      const down = project(toFrame, x, y + 1);
      const sourcePx = (n: number): number =>
        (Math.abs(across[0] - u) * n + Math.abs(down[0] - u) * TILE_ROWS + 12) *
        (Math.abs(across[1] - v) * n + Math.abs(down[1] - v) * TILE_ROWS + 12);
      while (columns > 16 && sourcePx(columns) > SOURCE_PX) columns /= 2;
    }
  return columns;
}

/** Samples n px from x on of row y to `dst`: R, G, B, validity, which is -1 outside the frame. */
export type SampleRow = (y: number, x: number, n: number, dst: number) => void;

/**
 * A moved frame's samples for the pixels of a box of at most TILE x TILE_ROWS, bicubic or as the
 * frame asks: one by one, or where `most` of them are wanted and the mapping is nearly upright,
 * across all at once and then down, which gives the same bytes for less work.
 *
 * @param noise  of its samples, where they are to say what they may be trusted with; without it
 *   their validity stays as it is
 * @param mapping  address of the mapping, as doubles; what is made lies in scratch
 * @returns nothing where the frame does not reach
 */
export function tileRows(
  heap: Heap,
  input: FrameSamples & { fromReference: Matrix3 },
  lut: number,
  mapping: number,
  box: Box,
  most: boolean,
  noise?: NoiseModel,
): SampleRow | undefined {
  const source = sourceTile(input.fromReference, input, box);
  const { k } = heap;
  if (!source) return undefined;
  const tile = linearTile(heap, input, source, lut);
  const { beyond = 0 } = input;
  // what lies beyond its edges is sampled like a larger frame
  const s = { ...source, left: source.left + beyond, top: source.top + beyond };
  const frame = { width: input.width + 2 * beyond, height: input.height + 2 * beyond };
  const h = beyond
    ? heap.put(multiply([1, 0, beyond, 0, 1, beyond, 0, 0, 1], input.fromReference), "f64")
    : mapping;
  const columns = box.x1 - box.x0;
  if (noise) {
    const mark = heap.mark();
    k.erodeValidity(
      tile,
      s.width,
      s.height,
      1 / noise.gain,
      noise.read ** 2,
      heap.alloc(7 * (s.width + 8) * 4),
    );
    heap.release(mark);
  }
  if (input.sampling && input.sampling !== "bicubic") {
    const weights = heap.put(tapWeights(input.sampling));
    return (y, x, n, dst) =>
      k.resampleSix(
        tile,
        s.left,
        s.top,
        s.width,
        frame.width,
        frame.height,
        y,
        x,
        n,
        h,
        weights,
        dst,
      );
  }
  if (!most || !k.isUpright(h))
    return (y, x, n, dst) =>
      k.resampleBicubic(tile, s.left, s.top, s.width, frame.width, frame.height, y, x, n, h, dst);
  const block = heap.alloc(s.height * columns * 16 + 64);
  k.acrossTile(tile, s.left, s.top, s.width, s.height, box.x0, columns, h, block);
  return (y, x, n, dst) =>
    k.downRow(block, box.x0, s.top, columns, frame.width, frame.height, y, x, n, h, dst);
}

/** Repeats the first and last of a row of n samples `before` and `behind` times beyond its ends. */
export function repeatEnds(
  heap: Heap,
  row: number,
  n: number,
  before: number,
  behind: number,
): void {
  const at = heap.f32(row - before * 16, (before + n + behind) * 4);
  for (let i = 0; i < before; i++) at.copyWithin(i * 4, before * 4, before * 4 + 4);
  for (let i = before + n; i < before + n + behind; i++)
    at.copyWithin(i * 4, (before + n - 1) * 4, (before + n) * 4);
}
