import type { Heap } from "../../kernels/heap";
import { SIZE, type Features } from "./features";

/** Pairs of corners that describe the same: places in both lists, one after the other. */
export type Matches = Int32Array;

/** A match counts if its distance is below this share of the second best's. */
const RATIO = 0.8;

/**
 * For each corner of a the nearest of b, kept if it is clearly nearer than the second nearest and if the way back leads
 * to the same corner.
 *
 * @see Lowe, "Distinctive image features from scale-invariant keypoints", IJCV 2004 (ratio of distances)
 */
export function matchFeatures(heap: Heap, a: Features, b: Features): Matches {
  const mark = heap.mark(), from = heap.put(a.descriptors), all = heap.put(b.descriptors), at = heap.alloc(b.count * 4 + 16), likeness = heap.f32(at, b.count);
  const bestOfB = new Int32Array(b.count).fill(-1), likenessOfB = new Float32Array(b.count).fill(-2), found: [number, number][] = [];
  for (let i = 0; i < a.count; i++) {
    let first = -2, second = -2, nearest = -1;
    heap.k.likenesses(from + i * SIZE * 4, all, SIZE, b.count, at);
    for (let j = 0; j < b.count; j++) {
      const s = likeness[j]!;
      if (s > likenessOfB[j]!) { likenessOfB[j] = s; bestOfB[j] = i; }
      if (s > first) { second = first; first = s; nearest = j; } else if (s > second) second = s;
    }
    // of unit vectors the squared distance is 2 - 2 s
    if (nearest >= 0 && 1 - first < RATIO * RATIO * (1 - second) && first > 0.5) found.push([i, nearest]);
  }
  heap.release(mark);
  return Int32Array.from(found.filter(([i, j]) => bestOfB[j] === i).flat());
}

/** Scratch that a match takes. */
export const matchScratch = (most: number): number => most * (SIZE * 8 + 4) + (1 << 12);
