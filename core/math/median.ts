/** The middle of some values, the upper one of two; 0 of none. */
export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;
