/** Steps of a table over the square root of light; the kernels' number. */
const STEPS = 2048;

/**
 * A function of light from 0 to 1 as the kernels read it: pairs of value and rise to the next, over
 * the square root of light, in which what displays do is nearly straight.
 */
export const rootTable = (of: (light: number) => number): Float32Array => {
  const at = (i: number): number => of((Math.min(i, STEPS) / STEPS) ** 2);
  return Float32Array.from({ length: (STEPS + 1) * 2 }, (_, i) =>
    i & 1 ? at((i >> 1) + 1) - at(i >> 1) : at(i >> 1),
  );
};
