import type { Fill } from "../../core/bracket/fillHoles";
import { focusBytes } from "./focusPass";
import { preparedRows } from "../../core/frame/preparedRows";
import { coarserShape } from "../../core/raster/pyramid";
import { sizeAt } from "../step";
import { decodedBytes, type StackFrame, type Work } from "../work";
import { leaseOf, type Lease } from "../../runtime/lease";
import { TaskScope } from "../../runtime/taskScope";
import { type Watch } from "../../runtime/work";
import type { Aligned } from "../align/step";
import { bandsBy, type Band, type ComingBand } from "./band";
import { depthInBands, focusBand, FOCUS_MARGIN } from "./focusBands";
import { fuseBand, fuseCoarse, FUSION_MARGIN } from "./fuseBands";
import { KEPT_IN_BAND } from "./fusion";
import type { MergeInput } from "./input";
import { mergeBand } from "./mergeFrames";
import { mergeStep, type MergeSettings } from "./step";

/** Bands begin where the pyramids of all methods do. */
const UNIT = 64;
const LEAST_ROWS = 256;

/**
 * What preparing up to three frames takes beside reading them, bytes: each is there before and
 * after, and smoothing noise works on floats.
 */
export const preparingBytes = (frames: readonly StackFrame[]): number =>
  frames.some((f) => f.preparation) ? 3 * 12 * frames[0]!.info.width * frames[0]!.info.height : 0;
/**
 * What it takes for any rows at all: those round them that they are made of, and what smoothing
 * works in.
 */
function preparingRound(frames: readonly StackFrame[]): number {
  const { width, height } = frames[0]!.info;
  const preparations = frames.flatMap((f) => f.preparation ?? []);
  if (!preparations.length) return 0;
  const round = Math.max(
    ...preparations.flatMap((p) =>
      [0, (height - LEAST_ROWS) / 2, height - LEAST_ROWS].map((y0) => {
        const [from, to] = preparedRows(p, { width, height }, [y0, y0 + LEAST_ROWS], 1);
        return to - from - LEAST_ROWS;
      }),
    ),
  );
  return 3 * 15 * width * Math.max(0, round) + (preparations.some((p) => p.noise > 0) ? 560e6 : 0);
}

/**
 * How many rows of a merge fit in so many bytes at once; all of them at most, and a least number at
 * any rate.
 */
export function rowsThatFit(
  frames: readonly StackFrame[],
  { method }: MergeSettings,
  bytes: number,
): number {
  const infos = frames.map((f) => f.info);
  const { width, height } = sizeAt(infos[0]!, 1);
  const read =
    (2 * Math.max(...infos.map((f) => decodedBytes(f, 1)))) / height +
    preparingBytes(frames) / height;
  let perRow: number;
  if (method === "radiance")
    perRow =
      (mergeStep.plan(infos, { ...mergeStep.settings.defaults, method }, 1).peakBytes +
        preparingBytes(frames)) /
      height;
  else if (method === "fusion")
    perRow =
      width * (16 + 6 + 8 * Math.min(frames.length, KEPT_IN_BAND)) +
      (7 * coarserShape(width, height).bytes) / height +
      read;
  else perRow = width * (16 + 6) + focusBytes({ width, height }, method) / height + read;
  let round: number;
  if (method === "radiance") round = 0;
  else if (method === "fusion") round = 2 * FUSION_MARGIN;
  else round = 2 * FOCUS_MARGIN;
  const rows = Math.floor(((bytes - preparingRound(frames)) / perRow - round) / UNIT) * UNIT;
  return Math.min(height, Math.max(LEAST_ROWS, rows));
}

/**
 * Merges full-size frames band by band, by any method, for pictures that do not fit in memory
 * whole. What a method has to know of the whole beforehand (a fusion its coarse levels, a focus run
 * its depth) it finds in a first round.
 *
 * @param fill  what the merge at a smaller size put into holes
 */
export async function mergeInBands(
  work: Work,
  input: MergeInput & { aligned: Aligned },
  { method }: MergeSettings,
  rows: number,
  fill: Fill | undefined,
  watch: Watch,
): Promise<MergedBands> {
  const { height } = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const bands = bandsBy(height, rows);
  await using scope = new TaskScope(work);
  const { take, common } = await bandTaker(scope, work, input, method, bands, fill, watch);
  scope.keep(...common);
  return {
    bands: bands.map((band) => ({ ...band, take: () => take(band) })),
    ...leaseOf(() => {
      for (const at of common) work.free(at);
    }),
  };
}

/** A merge whose rows come band by band; what the bands have in common is its lease. */
export interface MergedBands extends Lease {
  bands: readonly ComingBand[];
}
interface BandTaker {
  take(band: Band): ReturnType<ComingBand["take"]>;
  /** addresses of what the bands have in common */
  common: readonly number[];
}

/**
 * How a method makes a band.
 *
 * @param scope  in which what the bands have in common is found
 * @param work   on which the bands are made later
 */
async function bandTaker(
  scope: Work,
  work: Work,
  input: MergeInput & { aligned: Aligned },
  method: MergeSettings["method"],
  bands: readonly Band[],
  fill: Fill | undefined,
  watch: Watch,
): Promise<BandTaker> {
  const silent = { ...watch, progress: () => undefined };
  if (method === "radiance")
    return {
      async take(band) {
        const acc = await mergeBand(work, input, band, fill, silent);
        return { rows: acc, done: () => work.free(acc.ptr) };
      },
      common: [],
    };
  if (method === "fusion") {
    const coarse = await fuseCoarse(scope, input, bands, watch);
    return { take: (band) => fuseBand(work, input, band, coarse, silent), common: coarse.at };
  }
  const depth = method === "pyramid" ? undefined : await depthInBands(scope, input, bands, watch);
  return {
    take: (band) => focusBand(work, input, band, method, depth, silent),
    common: depth ? [depth.depth, depth.trust] : [],
  };
}
