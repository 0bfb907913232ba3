import type { WarpedFrame } from "../../core/bracket/mertens";
import { namesOf } from "../../core/frame/frame";
import { withPatches } from "../../core/bracket/ghostPatches";
import type { Outline } from "../../core/raster/coveredRectangle";
import type { Accumulator } from "../../core/raster/accumulator";
import {
  coarseScratch,
  focusBlockScratch,
  FOCUS_LEVELS,
  focusShape,
  type FocusSums,
} from "../../core/focus/sharpest";
import type { SharpLevel } from "../../core/focus/depthMap";
import { pyramidShape } from "../../core/raster/pyramid";
import { confidenceGrid } from "../ghosts/step";
import { cleared, inStrips, type RunOptions } from "../../runtime/work";
import { type Work } from "../work";
import { coveredBy, frameWarper } from "./frameWarper";
import { sizeAt } from "../step";
import { begin } from "./fold";
import type { Aligned } from "../align/step";
import type { Band } from "./band";
import type { MergeInput } from "./input";
import { clamp } from "../../core/math/clamp";

/**
 * Samples of the map of depth along the longer side, at most; the same for a preview and the final
 * picture.
 */
const DEPTH_EDGE = 1600;

export type FocusInput = MergeInput & { aligned: Aligned };
export type FocusMethod = "pyramid" | "depth" | "mixed";
/**
 * Frames fused by their pyramids, in sRGB, in the scene's planes; and what is known of where they
 * were sharp. All of it is the scope's in which it was made.
 */
export interface FocusPass {
  acc: Accumulator;
  sharp: SharpLevel;
  /** places of the frames that take part, along the focus travel */
  order: readonly number[];
  inStrips(run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown>;
  /** what of the picture is covered, if not all */
  covered: { outline?: Outline };
  warp(i: number, next: number | undefined): Promise<WarpedFrame>;
}

/**
 * What fusing a focus run takes beside the scene's planes and a frame: planes of the level on which
 * depth is judged; pyramids and the frames' range; then, where the pyramids were, sums along the
 * depth and two planes with what they are spread by.
 */
export function focusBytes(
  { width, height }: { width: number; height: number },
  method: FocusMethod,
): number {
  const { w, h } = depthLevel({ width, height });
  return (
    w * h * (1 + 5 * 4) +
    Math.max(
      10 * focusShape(width, height).bytes + width * height * 12,
      method === "pyramid" ? 0 : width * height * (16 + 8 + 4),
    )
  );
}

/** The level on which depth is judged. */
export function depthLevel({ width, height }: { width: number; height: number }): {
  level: number;
  w: number;
  h: number;
} {
  const { levels } = pyramidShape(width, height, FOCUS_LEVELS);
  const level = clamp(
    Math.ceil(Math.log2(Math.max(width, height) / DEPTH_EDGE)),
    0,
    levels.length - 2,
  );
  const { w, h } = levels[level]!;
  return { level, w, h };
}

/**
 * Fuses a focus run: on every scale and at every place the coefficients of the frame that is
 * sharpest there. Frames come one by one, so memory does not depend on their number.
 *
 * @param part  the rows of the picture that are worked on, if not all
 */
export async function fuseByPyramid(
  scope: Work,
  { frames, aligned, downscale, loaded, patches, sampling, fromPicture }: FocusInput,
  part: Band | undefined,
  tell: (frame: number, frames: number) => void,
  on: RunOptions,
): Promise<FocusPass> {
  const { reference } = aligned;
  const info = frames[reference]!.info;
  const grid = confidenceGrid(info);
  const used = (aligned.order ?? frames.map((_, i) => i)).filter((i) => aligned.frames[i]!.used);
  const whole = sizeAt(info, downscale);
  const top = part?.y0 ?? 0;
  const acc = begin(scope, { width: whole.width, height: part ? part.y1 - part.y0 : whole.height });
  const { width, height } = acc;
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
  const warp = (i: number, next: number | undefined): Promise<WarpedFrame> => {
    if (next !== undefined) warper.readAhead([i, next], aligned.frames);
    return warper.warp(i, aligned.frames[i]!);
  };
  const strips = (run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown> =>
    inStrips(scope, height, run);
  const rangeBytes = width * height * 6 + 64;
  const { bytes, levels } = focusShape(width, height);
  const block = (): number => scope.allocate(bytes);
  const sums: FocusSums = {
    own: [block(), block(), block()],
    greys: scope.allocate(((width + 1) >> 1) * ((height + 1) >> 1) * 4 + 64),
    energy: block(),
    best: block(),
    taken: [block(), block(), block()],
    range: { above: scope.allocate(rangeBytes), below: scope.allocate(rangeBytes) },
  };
  const { level } = depthLevel(whole);
  const { w, h } = pyramidShape(width, height, FOCUS_LEVELS).levels[level]!;
  const plane = (): number => scope.allocate(w * h * 4 + 64);
  const won = {
    sources: scope.allocate(w * h),
    total: plane(),
    last: plane(),
    lower: plane(),
    upper: plane(),
    level,
  };
  for (const p of [sums.best, ...sums.taken]) await cleared(scope, p, bytes, on);
  for (const p of [sums.range.above, sums.range.below]) await cleared(scope, p, rangeBytes, on);
  await cleared(scope, acc.ptr, acc.planeBytes * 4, on);
  await cleared(scope, won.sources, w * h, on);
  for (const p of [won.total, won.last, won.lower, won.upper])
    await cleared(scope, p, w * h * 4 + 64, on);
  for (const [k, i] of used.entries()) {
    const warped = await warp(i, used[k + 1]);
    const confidences = withPatches(undefined, namesOf(frames[i]!), patches, grid);
    const frame = {
      ...warped,
      ...(confidences
        ? { ghosts: { ...confidences, scale: confidences.scale / downscale, top } }
        : {}),
    };
    const own = { ...won, frame: i };
    await strips((y0, y1) =>
      scope.run(
        "halveFrame",
        { frame, sums, y0, y1 },
        { scratch: focusBlockScratch(width), ...on },
      ),
    );
    await scope.run(
      "coarseSharpness",
      { frame, sums },
      { scratch: coarseScratch(width, height), ...on },
    );
    await strips((y0, y1) =>
      scope.run(
        "chooseFinest",
        { frame, acc, sums, won: own, y0, y1 },
        { scratch: focusBlockScratch(width), ...on },
      ),
    );
    scope.free(warped.ptr);
    await Promise.all(
      [0, 1, 2].map((channel) =>
        scope.run(
          "chooseCoarser",
          { width, height, channel, sums },
          { scratch: width * 8 + (1 << 12), ...on },
        ),
      ),
    );
    await scope.run("keepBest", { width, height, sums, won: own }, on);
    tell(k, used.length);
  }
  for (const at of [...sums.own, sums.greys, sums.energy, won.last]) scope.free(at);
  await Promise.all(
    sums.taken.map((at) =>
      scope.run(
        "collapseFocus",
        { width, height, taken: at, best: sums.best },
        { scratch: width * 8 + (1 << 12), ...on },
      ),
    ),
  );
  await strips((y0, y1) =>
    scope.run(
      "addUp",
      { acc, coarser: sums.taken, y0, y1 },
      { scratch: width * 4 + (1 << 12), ...on },
    ),
  );
  await strips((y0, y1) => scope.run("holdInRange", { acc, range: sums.range, y0, y1 }, on));
  for (const s of [...sums.taken, sums.range.above, sums.range.below]) scope.free(s);
  const guide = scope.allocate(w * h * 4 + 64);
  await scope.run("depthGuide", { acc, level, w, h, guide }, on);
  return {
    acc,
    sharp: {
      level,
      w,
      h,
      sources: won.sources,
      total: won.total,
      lower: won.lower,
      upper: won.upper,
      best: level === 0 ? acc.ptr + 3 * acc.planeBytes : sums.best + levels[level - 1]!.at,
      guide,
    },
    order: used,
    inStrips: strips,
    covered: coveredBy(fromPicture, downscale, whole, top),
    warp,
  };
}
