import type { Fields, Settings } from "./settings/fields";
import type { FrameInfo } from "../core/frame/frame";

/** A measurement that a step leaves behind for the proof: what, how much, in what unit. */
export interface Fact {
  what: string;
  value: number;
  unit: "EV" | "%" | "px" | "frames" | "MP" | "dB" | "\u00b0" | "";
  digits: 0 | 1 | 2;
}

/** What a step will need, known before it runs. */
export interface Plan {
  /** size of what comes out, px */
  width: number;
  height: number;
  /** px that a part of the picture needs round it to come out the same as in the whole */
  margin: number;
  /** bytes of the workers' memory while it runs, and of what it leaves */
  peakBytes: number;
  heldBytes: number;
}

/** What can be set of a step. */
interface Described<F extends Fields> {
  settings: Settings<F>;
}
interface Parts {
  /** plain data, so that it can be written down */
  key(recipe: never): unknown;
  run(...input: never[]): unknown;
  plan?(frames: readonly FrameInfo[], settings: never, downscale: number): Plan;
  facts?(done: never, settings: never): Fact[];
}

/**
 * One part of a recipe: what can be set, what of the recipe its result depends on, and the work.
 * Running it again with an equal key and equal frames gives equal bytes. A step that takes much
 * memory says by `plan` how much; one that measures something tells it by `facts`.
 */
export const defineStep = <F extends Fields, P extends Parts>(
  step: Described<F> & P,
): Described<F> & Omit<P, "settings"> => step;

/** A picture's size at 1/downscale, rounded up as decoders do. */
export const sizeAt = (
  { width, height }: Pick<FrameInfo, "width" | "height">,
  downscale: number,
): { width: number; height: number } => ({
  width: Math.ceil(width / downscale),
  height: Math.ceil(height / downscale),
});
