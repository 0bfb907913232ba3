/** A value within bounds: the least where it is below, the most where it is above. */
export const clamp = (value: number, least: number, most: number): number =>
  Math.max(least, Math.min(most, value));
