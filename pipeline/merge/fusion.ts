import { type Coarser, type WarpedFrame, blockScratch } from "../../core/bracket/mertens";
import { namesOf } from "../../core/frame/frame";
import { withPatches } from "../../core/bracket/ghostPatches";
import type { Accumulator } from "../../core/raster/accumulator";
import type { Outline } from "../../core/raster/coveredRectangle";
import { coarserShape, type PyramidShape } from "../../core/raster/pyramid";
import { confidenceGrid } from "../ghosts/step";
import { cleared, inStrips, type RunOptions } from "../../runtime/work";
import { type Work } from "../work";
import { sizeAt } from "../step";
import { begin } from "./fold";
import { longestFirst } from "./readOrder";
import type { Band } from "./band";
import { coveredBy, frameWarper } from "./frameWarper";
import type { MergeInput } from "./input";

/**
 * Share of the memory that a fusion may hold: the scene, the pyramids, and as many warped frames as
 * fit beside them.
 */
const MEMORY_SHARE = 0.75;
/**
 * How many warped frames are kept, with their weights, for the second pass; the others are laid
 * again.
 */
const keptFrames = (width: number, height: number, budget: number): number =>
  Math.max(
    0,
    Math.floor(
      (MEMORY_SHARE * budget - width * height * 16 - 7 * coarserShape(width, height).bytes) /
        (width * height * 8),
    ),
  );

/** As many of them where only a part of the picture is worked on. */
export const KEPT_IN_BAND = 3;

/**
 * A fusion under way: the finest level gathers in the scene's own planes, the coarser ones in
 * blocks of their own. All of it is the scope's in which it was begun.
 */
export interface Fusion {
  acc: Accumulator;
  shape: PyramidShape;
  coarser: Coarser;
  /** places of the frames that take part, the reference first */
  used: readonly number[];
  inStrips(run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown>;
  /** what of the picture is covered, if not all */
  covered: { outline?: Outline };
  /**
   * Goes through the frames once more, now that each one's share is known: adds its finest level,
   * and makes its coarser ones.
   *
   * @param shares  where the shares of its weights go as well, a plane
   * @param each    what is done with a frame's coarser levels, of which the first of weights and
   *   channels is there
   */
  eachFrame(shares: number | undefined, each: (frame: number) => Promise<unknown>): Promise<void>;
}

/**
 * Lays the frames and sums their weights, since a weight counts against the sum of all. Laid frames
 * are kept as far as there is room, so memory does not depend on their number. The reference frame
 * is warped while the others are aligned.
 *
 * @param part  the rows of the picture that are worked on, if not all; the alignment must be known
 *   then
 * @param levels  of the pyramid at most, below the finest
 */
export async function beginFusion(
  scope: Work,
  {
    frames,
    aligned: aligning,
    reference,
    downscale,
    loaded,
    patches,
    sampling,
    fromPicture,
  }: MergeInput,
  part: Band | undefined,
  levels: number,
  tell: (frame: number, frames: number) => void,
  on: RunOptions,
): Promise<Fusion> {
  const info = frames[reference]!.info;
  const grid = confidenceGrid(info);
  const whole = sizeAt(info, downscale);
  const acc = begin(scope, { width: whole.width, height: part ? part.y1 - part.y0 : whole.height });
  const top = part?.y0 ?? 0;
  const { width, height } = acc;
  const n = width * height;
  const room = part ? KEPT_IN_BAND : keptFrames(width, height, scope.budget);
  const shape = coarserShape(width, height, levels);
  const strips = (run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown> =>
    inStrips(scope, height, run);
  const warper = frameWarper(scope, {
    frames,
    reference,
    downscale,
    loaded,
    whole,
    part,
    on,
    sampling,
    fromPicture,
  });
  const kept = new Map<number, WarpedFrame>();
  const known = part && (await aligning);
  const [first] = await Promise.all([
    warper.warp(reference, known?.frames[reference]),
    cleared(scope, acc.ptr, acc.planeBytes * 4, on),
  ]);
  // what is read meanwhile need not wait for the alignment either
  const guess = longestFirst(frames, reference);
  if (!part) warper.readAhead(guess.slice(0, Math.min(3, room)));
  const aligned = await aligning;
  const used = [reference, ...guess.filter((i) => aligned.frames[i]!.used)];
  const warp = async (
    i: number,
    next: number | undefined,
    ready?: WarpedFrame,
  ): Promise<WarpedFrame> => {
    if (next !== undefined) warper.readAhead([next], aligned.frames);
    const warped = ready ?? (await warper.warp(i, aligned.frames[i]!));
    const ghosts = withPatches(aligned.frames[i]!.ghosts, namesOf(frames[i]!), patches, grid);
    return {
      ...warped,
      ...(ghosts ? { ghosts: { ...ghosts, scale: ghosts.scale / downscale, top } } : {}),
    };
  };
  for (const [k, i] of used.entries()) {
    const warped = await warp(i, used[k + 1], k === 0 ? first : undefined);
    const keep = kept.size < room;
    const frame = keep ? { ...warped, weights: scope.allocate(n * 2 + 64) } : warped;
    await strips((y0, y1) =>
      scope.run(
        "sumWeights",
        { frame, sum: acc.ptr + 3 * acc.planeBytes, y0, y1 },
        { scratch: blockScratch(width), ...on },
      ),
    );
    tell(k, used.length * 2);
    if (keep) kept.set(i, frame);
    else scope.free(frame.ptr);
  }
  const block = (): number => scope.allocate(shape.bytes);
  const coarser: Coarser = {
    weights: block(),
    own: [block(), block(), block()],
    fused: [block(), block(), block()],
  };
  for (const f of coarser.fused) await cleared(scope, f, shape.bytes, on);
  return {
    acc,
    shape,
    coarser,
    used,
    inStrips: strips,
    covered: coveredBy(fromPicture, downscale, whole, top),
    async eachFrame(shares, each) {
      for (const [k, i] of used.entries()) {
        const frame =
          kept.get(i) ??
          (await warp(
            i,
            used.find((j, q) => q > k && !kept.has(j)),
          ));
        await strips((y0, y1) =>
          scope.run(
            "addFinest",
            { frame, sums: acc, coarser, bytes: shape.bytes, shares, y0, y1 },
            { scratch: blockScratch(width), ...on },
          ),
        );
        scope.free(frame.ptr);
        if (frame.weights !== undefined) scope.free(frame.weights);
        await each(i);
        tell(used.length + k, used.length * 2);
      }
    },
  };
}
