import type { Fill } from "../../core/bracket/fillHoles";
import type { Accumulator } from "../../core/raster/accumulator";
import type { DepthGrid } from "../../core/focus/depthGrid";
import type { ToneGrid } from "../../core/tone/toneGrid";

/** Merged radiance in the workers' memory; `release` gives the memory back. */
export interface Scene extends Accumulator {
  grid: ToneGrid;
  /** address of the tone basis */
  basis: number;
  /** address of bytes, one a pixel: the place of the frame that weighs most there, plus 1 */
  sources?: number;
  /** of a focus run */
  depth?: DepthGrid;
  /** what was put into holes, on the grid of confidences */
  fill?: Fill;
  release(): void;
}

/** The accumulator without its functions, as it may be sent to a worker. */
export const plain = ({ ptr, planeBytes, width, height }: Accumulator): Accumulator => ({
  ptr,
  planeBytes,
  width,
  height,
});
