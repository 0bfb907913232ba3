import type { Heap } from "../../kernels/heap";
import { DESCRIPTOR_SIZE, type Features } from "./features";

/** Pairs of corners that describe the same: places in both lists, one after the other. */
export type Matches = Int32Array;

/** A match counts if its distance is below this share of the second best's. */
const MAX_DISTANCE_RATIO = 0.8;

/**
 * For each corner of a the nearest of b, kept if it is clearly nearer than the second nearest and
 * if the way back leads to the same corner.
 *
 * @see Lowe, "Distinctive image features from scale-invariant keypoints", IJCV 2004 (ratio of
 *   distances)
 */
export function matchFeatures(heap: Heap, a: Features, b: Features): Matches {
  const mark = heap.mark();
  const from = heap.put(a.descriptors);
  const all = heap.put(b.descriptors);
  const bests = heap.alloc(b.count * 4 + 16);
  const likenesses = heap.alloc(b.count * 4 + 16);
  const out = heap.alloc(16);
  const found: [number, number][] = [];
  const bestOfB = heap.i32(bests, b.count).fill(-1);
  const alike = heap.f32(out, 2);
  const nearest = heap.i32(out + 8, 1);
  heap.f32(likenesses, b.count).fill(-2);
  for (let i = 0; i < a.count; i++) {
    heap.k.nearestTwo(
      from + i * DESCRIPTOR_SIZE * 4,
      all,
      DESCRIPTOR_SIZE,
      b.count,
      i,
      bests,
      likenesses,
      out,
    );
    const first = alike[0]!;
    const second = alike[1]!;
    // of unit vectors the squared distance is 2 - 2 s
    if (
      nearest[0]! >= 0 &&
      1 - first < MAX_DISTANCE_RATIO * MAX_DISTANCE_RATIO * (1 - second) &&
      first > 0.5
    )
      found.push([i, nearest[0]!]);
  }
  const both = Int32Array.from(found.filter(([i, j]) => bestOfB[j] === i).flat());
  heap.release(mark);
  return both;
}

/** Scratch that a match takes. */
export const matchScratch = (most: number): number => most * (DESCRIPTOR_SIZE * 8 + 8) + (1 << 12);
