/** How a second frame lies against a first one, as far as their signatures tell. */
export interface PairView {
  /**
   * correlation of what both show well exposed, -1..1, and the share of the frame over which it was
   * taken
   */
  correlation: number;
  overlap: number;
  /** the second frame's place in the first: shares of its width and height */
  dx: number;
  dy: number;
  /** EV of the second against the first, from the pixels both show well */
  gainEv: number;
  /** how sure it is that they show the same place, in standard deviations */
  certainty: number;
  /**
   * of the parts of the frame that have texture, the share that fits, 0..1; asked only of frames
   * that lie on each other
   */
  alike?: number;
}

export type Shift = Pick<PairView, "dx" | "dy">;
/** How far apart two frames lie, shares of the frame along the longer way. */
export const shiftOf = ({ dx, dy }: Shift): number => Math.max(Math.abs(dx), Math.abs(dy));

/**
 * Frames lie on each other in a part only: the legs of a tripod are in the same place of every
 * frame that looks down past them.
 */
export const onlyPartly = ({ alike = 1 }: Pick<PairView, "alike">): boolean => alike < 0.5;
/** Frames that lie so near each other, shares of the frame, may lie on each other. */
export const SAME_PLACE_SHIFT = 0.12;
