import { random } from "../core/math/random";
import { Heap } from "../kernels/heap";

/**
 * What the tests of the kernels share: chance from a seed, memory, and how far two rows of numbers
 * are apart.
 */
export const rnd = random(42);
export const heap = Heap.local(8e6);
export const noise = (n: number, lo = 0, hi = 1): Float32Array =>
  Float32Array.from({ length: n }, () => lo + (hi - lo) * rnd());
export const worst = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let m = 0;
  for (let i = 0; i < b.length; i++) m = Math.max(m, Math.abs(a[i]! - b[i]!));
  return m;
};
