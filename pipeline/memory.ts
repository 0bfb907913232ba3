import { neighbourhoodMargin, neighbourhoodPlan } from "../core/finish/neighbourhood";
import { finishedScratch } from "../core/finish/renderFinished";
import { activeParts } from "./finish/step";
import type { OneViewRecipe, Recipe } from "./recipe/recipe";
import { bytesPerPixel } from "../core/tone/renderStrip";
import { deliverStep, pixelKind } from "./deliver/step";
import { preparingBytes, rowsThatFit } from "./merge/bands";
import { widened } from "./merge/band";
import { mergeStep } from "./merge/step";
import { bandsOf } from "./panorama/renderPanorama";
import { joiningBytes } from "./panorama/step";
import { sizeAt } from "./step";
import { decodedBytes, downscaleTo, WORK_EDGE, type StackFrame } from "./work";
import { BLEND_MARGIN } from "../core/panorama/blend/blend";

/** What libraries, decoders and a file in the making take beside the pictures, bytes. */
const OVERHEAD_BYTES = 600e6;
/**
 * Bytes of frames that are read while a panorama's are being placed, when little else is in memory.
 */
export const READ_AHEAD_BYTES = 260e6;

/**
 * What a px of a frame takes while it is placed: its light and confidences, and its part of small frames,
 * corners and seams.
 */
const PLACED_BYTES_A_PX = 14;

/**
 * What stays of a frame beside its pixels: its small frame and its corners, and copies of them in
 * other threads.
 */
const KEPT_OF_FRAME_BYTES = 4e6;

/** Threads that finish at once, for each of which neighbourhoods take scratch. */
const FINISHING_THREADS = 4;

/** What finishing takes beside the picture, bytes: grids, and neighbourhoods on every thread. */
function finishBytes({ finish }: Recipe, width: number): number {
  const parts = activeParts(finish);
  if (!parts.length) return 0;
  const hasNeighbourhoods = neighbourhoodMargin(neighbourhoodPlan({ parts })) > 0;
  return (
    GRID_BYTES * (1 + parts.length) + FINISHING_THREADS * finishedScratch(width, hasNeighbourhoods)
  );
}
/** Grids of a part: mask, light field, glow; and what they are found on. */
const GRID_BYTES = 30e6;

/** What merging a bracket or focus stack whole takes with all that is beside it, bytes. */
function wholeBytes(
  frames: readonly StackFrame[],
  recipe: OneViewRecipe,
): { whole: number; out: number; finishing: number } {
  const { merge, deliver } = recipe;
  const infos = frames.map((f) => f.info);
  const { peakBytes, heldBytes } = mergeStep.plan(infos, merge, 1);
  const out = deliverStep.plan(infos, deliver, 1).peakBytes;
  const finishing = finishBytes(recipe, infos[0]!.width);
  return {
    whole:
      Math.max(peakBytes + preparingBytes(frames), heldBytes + out + finishing) + OVERHEAD_BYTES,
    out,
    finishing,
  };
}

/**
 * How many rows of a bracket or focus stack are merged at once where all of it would not fit in the
 * budget.
 */
export function bandRows(
  budget: number,
  frames: readonly StackFrame[],
  recipe: Recipe,
): number | undefined {
  if (recipe.kind === "panorama") return undefined;
  const { whole, out, finishing } = wholeBytes(frames, recipe);
  if (whole <= budget) return undefined;
  // a file may take as much again as what is packed into it
  const file = out * (recipe.deliver.format === "jpg" ? 1.2 : 2);
  const left = Math.max(0, budget - OVERHEAD_BYTES - file - finishing);
  // where neighbourhoods reach over the border, a band and its copy with the rows before it are there
  return rowsThatFit(frames, recipe.merge, finishing ? left / 2 : left);
}

/**
 * The most memory that delivering a stack will take, bytes.
 *
 * @param canvas  of a panorama whose frames have their places, px
 */
export function deliveryBytes(
  budget: number,
  frames: readonly StackFrame[],
  recipe: Recipe,
  canvas?: { width: number; height: number },
): number {
  if (recipe.kind !== "panorama") return Math.min(budget, wholeBytes(frames, recipe).whole);
  if (!canvas) return budget;
  const band = widened(bandsOf(canvas)[0]!, BLEND_MARGIN, canvas.height);
  const out = canvas.width * canvas.height * bytesPerPixel(pixelKind(recipe.deliver));
  const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
  const read = Math.min(
    READ_AHEAD_BYTES,
    frames.reduce((s, f) => s + decodedBytes(f.info, 1), 0),
  );
  // frames are placed, all of them small, before they are joined
  const layout = frames.reduce(
    (s, { info }) =>
      s +
      decodedBytes(info, downscale) +
      PLACED_BYTES_A_PX * sizeAt(info, downscale).width * sizeAt(info, downscale).height,
    0,
  );
  return (
    OVERHEAD_BYTES +
    read +
    frames.length * KEPT_OF_FRAME_BYTES +
    Math.max(layout, joiningBytes({ width: canvas.width, height: band.y1 - band.y0 }) + out)
  );
}
