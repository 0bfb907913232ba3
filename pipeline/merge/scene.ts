import type { Fill } from "../../core/bracket/fillHoles";
import type { Accumulator } from "../../core/raster/accumulator";
import type { DepthGrid } from "../../core/focus/depthGrid";
import type { ToneGrid } from "../../core/tone/toneGrid";
import { leaseOf, type Lease } from "../../runtime/lease";
import type { Work } from "../work";

/** What a merged scene is made of. */
export interface SceneParts extends Accumulator {
  grid: ToneGrid;
  /** address of the tone basis, behind the grid */
  basis: number;
  /** address of bytes, one a pixel: the place of the frame that weighs most there, plus 1 */
  sources?: number;
  /** of a focus run */
  depth?: DepthGrid;
  /** what was put into holes, on the grid of confidences */
  fill?: Fill;
}
/** Merged radiance in the workers' memory, until it is released. */
export interface Scene extends SceneParts, Lease {}

/** The addresses of a scene's memory: its planes, its grid with the tone basis, its source map. */
export const addressesOf = ({ ptr, grid, sources }: SceneParts): (number | undefined)[] => [
  ptr,
  grid.ptr,
  sources,
];

/** A scene whose release frees its memory. */
export const sceneOf = (memory: Pick<Work, "free">, parts: SceneParts): Scene => ({
  ...parts,
  ...leaseOf(() => {
    for (const at of addressesOf(parts)) if (at !== undefined) memory.free(at);
  }),
});

/** The accumulator without its functions, as it may be sent to a worker. */
export const plain = ({ ptr, planeBytes, width, height }: Accumulator): Accumulator => ({
  ptr,
  planeBytes,
  width,
  height,
});
