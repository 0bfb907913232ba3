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
export function matchFeatures(a: Features, b: Features): Matches {
  const bestOfB = new Int32Array(b.count).fill(-1), likenessOfB = new Float32Array(b.count).fill(-2), found: [number, number][] = [];
  for (let i = 0; i < a.count; i++) {
    let first = -2, second = -2, at = -1;
    const p = i * SIZE, A = a.descriptors, B = b.descriptors;
    for (let j = 0, q = 0; j < b.count; j++, q += SIZE) {
      let s = 0;
      for (let k = 0; k < SIZE; k += 4) s += A[p + k]! * B[q + k]! + A[p + k + 1]! * B[q + k + 1]! + A[p + k + 2]! * B[q + k + 2]! + A[p + k + 3]! * B[q + k + 3]!;
      if (s > likenessOfB[j]!) { likenessOfB[j] = s; bestOfB[j] = i; }
      if (s > first) { second = first; first = s; at = j; } else if (s > second) second = s;
    }
    // of unit vectors the squared distance is 2 - 2 s
    if (at >= 0 && 1 - first < RATIO * RATIO * (1 - second) && first > 0.5) found.push([i, at]);
  }
  return Int32Array.from(found.filter(([i, j]) => bestOfB[j] === i).flat());
}
