import type * as v from "valibot";
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

/**
 * One part of a recipe, always the same four: what can be set, what it will take, the work, and
 * what was measured. Running it again with equal inputs and settings gives equal bytes.
 */
export interface Step<S extends v.GenericSchema, Run extends (...args: never[]) => unknown, Done> {
  settings: { schema: S; defaults: v.InferOutput<S> };
  plan(frames: readonly FrameInfo[], settings: v.InferOutput<S>, downscale: number): Plan;
  run: Run;
  facts(done: Done, settings: v.InferOutput<S>): Fact[];
}

/** Lets a step's parts be checked against each other without naming their types. */
export const defineStep = <
  S extends v.GenericSchema,
  Run extends (...args: never[]) => unknown,
  Done,
>(
  step: Step<S, Run, Done>,
): Step<S, Run, Done> => step;

/** A picture's size at 1/downscale, rounded up as decoders do. */
export const sizeAt = (
  { width, height }: Pick<FrameInfo, "width" | "height">,
  downscale: number,
): { width: number; height: number } => ({
  width: Math.ceil(width / downscale),
  height: Math.ceil(height / downscale),
});

/** The plan of a step that takes no pixels in its hands. */
export const nothingToPlan = (
  frames: readonly FrameInfo[],
  _settings: unknown,
  downscale: number,
): Plan => ({ ...sizeAt(frames[0]!, downscale), margin: 0, peakBytes: 0, heldBytes: 0 });
