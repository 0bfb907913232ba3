import type { AlignedFrame } from "../../core/align/alignedFrame";
import { type FoldInput, foldScratch } from "../../core/bracket/foldFrame";
import type { Work } from "../work";
import type { LoadedFrame } from "../loadedFrame";
import { type Accumulator, planeBytesOf } from "../../core/raster/accumulator";
import { shifted } from "./band";
import { rescale } from "../../core/math/matrix3";
import { USUAL_NOISE } from "../../core/align/logPyramid";
import { type RunOptions, rowsOf } from "../../runtime/work";

/** How a frame is folded into a merge: where it lies, how bright it is, what moved in it. */
export interface FrameFold
  extends
    Pick<AlignedFrame, "fromReference" | "ev" | "ghosts">,
    Pick<FoldInput, "sampling" | "beyond"> {
  /** no other frame knows better what is brightest in it */
  darkest?: boolean;
}

/** Allocates the planes that a merge adds its frames up in, not cleared. */
export function begin(
  work: Work,
  { width, height }: { width: number; height: number },
): Accumulator {
  const planeBytes = planeBytesOf(width, height);
  return { ptr: work.allocate(planeBytes * 4 + 64), planeBytes, width, height };
}

/**
 * A frame's samples with where they lie and what they count.
 *
 * @param top  the picture's row that is the accumulator's first
 */
export const foldInput = (
  loaded: LoadedFrame,
  { fromReference, ev, ghosts, darkest, sampling, beyond }: FrameFold,
  downscale: number,
  first: boolean,
  top = 0,
): FoldInput => ({
  samples: loaded.ptr,
  type: loaded.type,
  width: loaded.width,
  height: loaded.height,
  lut: loaded.lut,
  ...(loaded.block && !darkest ? { block: loaded.block } : {}),
  ...(sampling ? { sampling } : {}),
  ...(beyond ? { beyond } : {}),
  fromReference: shifted(rescale(fromReference, 1 / downscale), top, loaded.top ?? 0),
  ev,
  first,
  noise: { gain: USUAL_NOISE.gain, read: loaded.type === "u8" ? USUAL_NOISE.read : 5e-4 },
  ...(ghosts ? { ghosts: { ...ghosts, scale: ghosts.scale / downscale, top } } : {}),
});

/** Adds a frame to a merge, weighted by what each of its samples is worth. */
export async function fold(
  work: Work,
  acc: Accumulator,
  loaded: LoadedFrame,
  layout: FrameFold,
  downscale: number,
  first: boolean,
  on: RunOptions,
  top = 0,
): Promise<void> {
  const input = foldInput(loaded, layout, downscale, first, top);
  await Promise.all(
    rowsOf(acc.height, work.threads * 4).map(([y0, y1]) =>
      work.run(
        "fold",
        { acc, input, y0, y1 },
        { scratch: foldScratch(acc.width, loaded.type), ...on },
      ),
    ),
  );
}

/** Divides the sums of a merge by their weights, in the working space. */
export const finalise = (
  work: Work,
  acc: Accumulator,
  matrix: number[],
  on: RunOptions,
): Promise<unknown> =>
  Promise.all(
    rowsOf(acc.height, work.threads * 2).map(([y0, y1]) =>
      work.run("finalise", { acc, matrix, y0, y1 }, on),
    ),
  );
