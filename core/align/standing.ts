// What of a picture stands still, and so tells how the camera moved.
import { boxMean } from "../raster/boxMean";
import type { GhostVotes } from "../bracket/findGhosts";
import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "./logPyramid";
import { agreementOfParts, type Registration } from "./registerPair";

/** Radius in ghost samples within which a thing's unmoving looking middle belongs to it, and the share of it that has to have moved. */
const AROUND = 16, MOVES = 0.25;

/** A level of which some parts have no vote. @param votes  0 to 255 on a grid of half the size */
export function heldBack(heap: Heap, level: LogPyramid["levels"][number], votes: Uint8Array): LogPyramid["levels"][number] {
  const { w, h } = level, vote = heap.alloc(w * h * 4 + 16), from = heap.f32(level.vote, w * h), to = heap.f32(vote, w * h), gw = w >> 1, gh = h >> 1;
  for (let y = 0; y < h; y++) for (let x = 0, row = Math.min(gh - 1, y >> 1) * gw; x < w; x++) to[y * w + x] = (from[y * w + x]! * votes[row + Math.min(gw - 1, x >> 1)]!) / 255;
  return { ...level, vote };
}

/** Votes in which what lies amid moving samples has none either: the even middle of a cloud moves with its rim. */
export function wholeThings(heap: Heap, { votes, width: w, height: h }: GhostVotes): Uint8Array {
  const mark = heap.mark(), plane = heap.alloc(w * h * 4), moved = heap.f32(plane, w * h), out = votes.slice();
  for (let i = 0; i < moved.length; i++) moved[i] = 1 - votes[i]! / 255;
  const around = heap.f32(boxMean(heap, plane, w, h, AROUND), w * h);
  for (let i = 0; i < out.length; i++) if (around[i]! > MOVES) out[i] = 0;
  heap.release(mark);
  return out;
}

/** In how many more parts of the picture the first motion fits better than the second. */
export function majority(heap: Heap, template: LogPyramid, image: LogPyramid, one: Registration, other: Registration): number {
  const [a, b] = [one, other].map((r) => agreementOfParts(heap, template, image, r)) as [(number | undefined)[], (number | undefined)[]];
  return a.reduce<number>((n, share, k) => { const gain = (share ?? 0) - (b[k] ?? 0); return n + (gain > 0.02 ? 1 : gain < -0.02 ? -1 : 0); }, 0);
}
