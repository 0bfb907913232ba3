import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";
import { toWorking } from "../colour/spaces";
import { differences, reduceAll, type PyramidShape } from "../raster/pyramid";
import { spanAt, type CoveredPart, type Outline } from "../raster/coveredRectangle";
import { ghostConfidence, type FoldInput } from "./foldFrame";
import { type Accumulator } from "../raster/accumulator";

/** A frame warped to the reference's place: RGB samples of 16 bit in sRGB at this address. */
export interface WarpedFrame {
  ptr: number;
  width: number;
  height: number;
  ghosts?: FoldInput["ghosts"];
  /** what of it the frame covers, px; all where it is not said */
  covered?: CoveredPart;
  /** where its weights in a fusion are kept, 16 bit each */
  weights?: number;
}

/**
 * Weights of the rows y0 to y1: contrast, saturation and well-exposedness with equal exponents;
 * what moved weighs nothing.
 *
 * @param dst  address of row y0's weights
 * @see Mertens, Kautz, Van Reeth, "Exposure Fusion", Pacific Graphics 2007
 */
export function exposureWeights(
  heap: Heap,
  frame: WarpedFrame,
  y0: number,
  y1: number,
  dst: number,
): void {
  const mark = heap.mark();
  const { width: w, height: h } = frame;
  heap.k.fusionWeights(frame.ptr, w, h, y0, y1, heap.alloc((w + 8) * 12 + 64), dst);
  if (frame.ghosts) {
    const confidences = heap.alloc(w * 4 + 64);
    for (let y = y0; y < y1; y++)
      if (ghostConfidence(heap, frame.ghosts, y, 0, w, confidences)) {
        const row = heap.f32(dst + (y - y0) * w * 4, w);
        const confidence = heap.f32(confidences, w);
        // less than the least that a still frame weighs, so that a clipped reference still wins
        // where somebody walks
        for (let x = 0; x < w; x++)
          row[x] = Math.max(1e-17, confidence[x]! < 0.02 ? 0 : row[x]! * confidence[x]! ** 2);
      }
  }
  heap.release(mark);
}

/** Rows worked on at once, so that what they need stays in the second-level cache. */
const BLOCK = 32;
/** Bytes of scratch for a block and all that is made of it. */
export const blockScratch = (width: number): number => width * 4 * (4 * BLOCK + 40) + (1 << 12);

/**
 * Adds the weights of rows y0 to y1 of a frame to the plane of all frames' sums, and keeps them
 * where the frame has room for them.
 */
export function sumWeights(
  heap: Heap,
  frame: WarpedFrame,
  sum: number,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { width: w } = frame;
  const own = heap.alloc(BLOCK * w * 4 + 64);
  for (let y = y0; y < y1; y += BLOCK) {
    const n = (Math.min(y1, y + BLOCK) - y) * w;
    roundedWeights(heap, frame, y, y + n / w, own);
    heap.k.addPlane(own, n, sum + y * w * 4);
  }
  heap.release(mark);
}

/** The weights as they are kept: the same whether they are or not, so that shares add up to one. */
function roundedWeights(heap: Heap, frame: WarpedFrame, y0: number, y1: number, dst: number): void {
  const mark = heap.mark();
  const { width: w, weights } = frame;
  const n = (y1 - y0) * w;
  const packed = heap.alloc(n * 2 + 64);
  exposureWeights(heap, frame, y0, y1, dst);
  heap.k.packWeights(dst, n, packed);
  heap.k.unpackWeights(packed, n, dst);
  // copied, since a store of eight would reach into the rows of another strip
  if (weights !== undefined) heap.u16(weights + y0 * w * 2, n).set(heap.u16(packed, n));
  heap.release(mark);
}

/**
 * Blocks of pyramids from the second level on: the frame's weights and channels, and what all
 * frames add up to.
 */
export interface Coarser {
  weights: number;
  own: readonly number[];
  fused: readonly number[];
}

/**
 * Adds the finest level of rows y0 to y1 of a frame to the sums: its Laplacian by its share of all
 * weights, and makes those rows' second level of weights and channels, from which addCoarser goes
 * on.
 *
 * @param sums    planes of R, G, B, and the sum of all frames' weights
 * @param shares  where the shares of the weights go as well, a plane
 * @param y0      even, as y1 is but at the lower edge
 */
export function addFinest(
  heap: Heap,
  frame: WarpedFrame,
  sums: Accumulator,
  coarser: Coarser,
  shares: number | undefined,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { width: w, height: h } = frame;
  const W = (w + 1) >> 1;
  const H = (h + 1) >> 1;
  const weights = heap.alloc((BLOCK + 4) * w * 4 + 64);
  const channel = heap.alloc((BLOCK + 8) * w * 4 + 64);
  const half = heap.alloc((BLOCK / 2 + 3) * W * 4 + 64);
  const row = heap.alloc(w * 4 + 64);
  for (let top = y0; top < y1; top += BLOCK) {
    const end = Math.min(y1, top + BLOCK);
    const n = (end - top) * w;
    const first = top >> 1;
    const last = (end + 1) >> 1;
    // as many rows more as the five taps reach
    const wa = Math.max(0, top - 2);
    const wb = Math.min(h, end + 2);
    const ca = Math.max(0, top - 4);
    const cb = Math.min(h, end + 4);
    const ga = Math.max(0, first - 1);
    const gb = Math.min(H, last + 1);
    const rowsOf = (block: number, from: number, width: number): number => block - from * width * 4;
    if (frame.weights === undefined) roundedWeights(heap, frame, wa, wb, weights);
    else heap.k.unpackWeights(frame.weights + wa * w * 2, (wb - wa) * w, weights);
    heap.k.divideBy(weights, sums.ptr + 3 * sums.planeBytes + wa * w * 4, (wb - wa) * w);
    const share = rowsOf(weights, wa, w) + top * w * 4;
    if (shares !== undefined) heap.u8(shares + top * w * 4, n * 4).set(heap.u8(share, n * 4));
    heap.k.pyrDown(rowsOf(weights, wa, w), w, h, coarser.weights, row, first, last);
    for (let c = 0; c < 3; c++) {
      heap.k.channelOf(frame.ptr + ca * w * 6, (cb - ca) * w, c, channel);
      heap.k.pyrDown(rowsOf(channel, ca, w), w, h, rowsOf(half, ga, W), row, ga, gb);
      heap
        .u8(coarser.own[c]! + first * W * 4, (last - first) * W * 4)
        .set(heap.u8(half + (first - ga) * W * 4, (last - first) * W * 4));
      heap.k.pyrUp(
        rowsOf(half, ga, W),
        w,
        h,
        rowsOf(channel, ca, w),
        rowsOf(channel, ca, w),
        -1,
        row,
        top,
        end,
      );
      heap.k.addProduct(
        channel + (top - ca) * w * 4,
        share,
        n,
        sums.ptr + c * sums.planeBytes + top * w * 4,
      );
    }
  }
  heap.release(mark);
}

/** Adds one channel's coarser levels of a frame to the sums, when their weights are reduced. */
export function addCoarser(
  heap: Heap,
  { weights, own, fused }: Coarser,
  shape: PyramidShape,
  channel: number,
): void {
  reduceAll(heap, own[channel]!, shape);
  differences(heap, own[channel]!, shape);
  for (const l of shape.levels)
    heap.k.addProduct(own[channel]! + l.at, weights + l.at, l.w * l.h, fused[channel]! + l.at);
}

/**
 * Turns rows y0 to y1 of a fused picture, which is in sRGB, into light in the working space.
 *
 * @param outline  what of the picture is covered, if not all: the rest is empty
 */
export function fusedToScene(
  heap: Heap,
  acc: Accumulator,
  y0: number,
  y1: number,
  outline?: Outline,
): void {
  const mark = heap.mark();
  heap.k.toScene(
    acc.ptr + y0 * acc.width * 4,
    acc.planeBytes,
    (y1 - y0) * acc.width,
    heap.put(toWorking("srgb")),
  );
  if (outline) emptyOutside(heap, acc, outline, y0, y1);
  heap.release(mark);
}

function emptyOutside(
  heap: Heap,
  { ptr, planeBytes, width }: Accumulator,
  outline: Outline,
  y0: number,
  y1: number,
): void {
  for (let y = y0; y < y1; y++) {
    const [from, to] = spanAt(outline, y + 0.5);
    const left = clamp(Math.round(from), 0, width);
    const right = to > from ? clamp(Math.round(to), left, width) : left;
    for (let plane = 0; plane < 4; plane++) {
      const row = heap.f32(ptr + plane * planeBytes + y * width * 4, width);
      row.fill(0, 0, left);
      row.fill(0, right);
    }
  }
}
