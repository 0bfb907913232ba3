import type { Heap } from "../../kernels/heap";
import { decode, SPACES, toWorking } from "../colour/spaces";
import { collapse, differences, pyramidShape, reduceAll } from "../raster/pyramid";
import type { Box } from "../raster/coveredRectangle";
import { ghostVotes, type Accumulator, type FoldInput } from "./foldFrame";

/** A frame laid in the reference's place: RGB samples of 16 bit in sRGB at this address. */
export interface LaidFrame { ptr: number; width: number; height: number; ghosts?: FoldInput["ghosts"]; /** what of it the frame covers, px */ covered?: Box }

/**
 * Weights of the rows y0 to y1: contrast, saturation and well-exposedness with equal exponents; what moved weighs
 * nothing.
 *
 * @param dst  address of row y0's weights
 * @see Mertens, Kautz, Van Reeth, "Exposure Fusion", Pacific Graphics 2007
 */
export function exposureWeights(heap: Heap, frame: LaidFrame, y0: number, y1: number, dst: number): void {
  const mark = heap.mark(), { width: w, height: h } = frame;
  heap.k.fusionWeights(frame.ptr, w, h, y0, y1, heap.alloc((w + 8) * 12 + 64), dst);
  if (frame.ghosts) {
    const votes = heap.alloc(w * 4 + 64);
    for (let y = y0; y < y1; y++) if (ghostVotes(heap, frame.ghosts, y, 0, w, votes)) {
      const row = heap.f32(dst + (y - y0) * w * 4, w), vote = heap.f32(votes, w);
      // less than the least that a still frame weighs, so that a clipped reference still wins where somebody walks
      for (let x = 0; x < w; x++) row[x] = Math.max(1e-17, vote[x]! < 0.02 ? 0 : row[x]! * vote[x]! ** 2);
    }
  }
  heap.release(mark);
}
export const weightScratch = (width: number): number => width * 20 + (1 << 12);

/** Adds one channel of a frame to the fused pyramid at `sum`, weighted by the pyramid of its weights. */
export function addChannel(heap: Heap, frame: LaidFrame, channel: number, weights: number, sum: number): void {
  const mark = heap.mark(), shape = pyramidShape(frame.width, frame.height), own = heap.alloc(shape.bytes);
  heap.k.channelOf(frame.ptr, frame.width * frame.height, channel, own);
  reduceAll(heap, own, shape);
  differences(heap, own, shape);
  for (const l of shape.levels) heap.k.addProduct(own + l.at, weights + l.at, l.w * l.h, sum + l.at);
  heap.release(mark);
}
export const channelScratch = (width: number, height: number): number => pyramidShape(width, height).bytes + width * 8 + (1 << 14);

/** Adds a fused pyramid up into a plane of the scene. */
export function collapseChannel(heap: Heap, sum: number, acc: Accumulator, channel: number): void {
  collapse(heap, sum, pyramidShape(acc.width, acc.height));
  heap.u8(acc.ptr + channel * acc.planeBytes, acc.width * acc.height * 4).set(heap.u8(sum, acc.width * acc.height * 4));
}

const LINEAR = Float32Array.from({ length: 4098 }, (_, i) => decode(SPACES.srgb.curve, Math.min(1, i / 4096)));

/** Turns rows y0 to y1 of a fused picture, which is in sRGB, into light in the working space. */
export function fusedToScene(heap: Heap, acc: Accumulator, y0: number, y1: number): void {
  const mark = heap.mark();
  heap.k.toScene(acc.ptr + y0 * acc.width * 4, acc.planeBytes, (y1 - y0) * acc.width, heap.put(LINEAR), heap.put(toWorking("srgb")));
  heap.release(mark);
}
