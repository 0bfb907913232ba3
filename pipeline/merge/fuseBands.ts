import { pyramidShape, type PyramidShape } from "../../core/raster/pyramid";
import { sizeAt } from "../step";
import { TaskScope } from "../../runtime/taskScope";
import { cleared, type RunOptions, type Watch } from "../../runtime/work";
import { type Work } from "../work";
import type { Aligned } from "../align/step";
import { widened, type Band, type ComingBand } from "./band";
import { addCoarseLevels, toLight } from "./fuseFrames";
import { beginFusion, type Fusion } from "./fusion";
import type { MergeInput } from "./input";

/**
 * Levels that are worked on band by band; what is coarser than the last of them is small enough to
 * be held whole.
 */
const LEVELS = 4;
/**
 * Rows that a band needs round it for those levels to come out as in the whole: what reductions and
 * enlargements reach.
 */
export const FUSION_MARGIN = 6 * 2 ** LEVELS;

type BandInput = MergeInput & { aligned: Aligned };
/**
 * The fused picture's level of 1/2^LEVELS, added up from all that is coarser: three planes, one
 * block a channel, in the scope that it was made in.
 */
export interface CoarseFusion {
  shape: PyramidShape;
  at: readonly number[];
}

/**
 * The coarse levels of a fusion that does not fit in memory whole: goes through it band by band,
 * and of each frame's weights and channels keeps the level at which the bands end. Together with
 * fuseBand it gives the bytes of fuseFrames.
 *
 * @param bands  beginning at multiples of 2^LEVELS
 */
export async function fuseCoarse(
  scope: Work,
  input: BandInput,
  bands: readonly Band[],
  { progress, signal }: Watch,
): Promise<CoarseFusion> {
  const on = signal ? { signal } : {};
  const size = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const by = 2 ** LEVELS;
  const shape = pyramidShape(Math.ceil(size.width / by), Math.ceil(size.height / by));
  const { w } = shape.levels[0]!;
  const block = (): number => scope.allocate(shape.bytes);
  const fused = [block(), block(), block()];
  const kept = new Map<number, FrameBlocks>();
  for (const f of fused) await cleared(scope, f, shape.bytes, on);
  for (const [b, band] of bands.entries()) {
    await using forBand = new TaskScope(scope);
    const part = widened(band, FUSION_MARGIN, size.height);
    const tell = (k: number, of: number): void =>
      progress(
        (b + (k + 1) / of) / bands.length,
        `Fusing frames, part ${b + 1} of ${bands.length}`,
      );
    const fusion = await beginFusion(forBand, input, part, LEVELS, tell, on);
    await fusion.eachFrame(undefined, async (i) => {
      const to = kept.get(i) ?? { weights: block(), own: [block(), block(), block()] };
      kept.set(i, to);
      await keepCoarsest(forBand, fusion, to, part, band, w, on);
    });
  }
  for (const [i, { weights, own }] of kept) {
    await addCoarseLevels(
      scope,
      {
        acc: { width: w, height: 0, ptr: 0, planeBytes: 0 },
        shape,
        coarser: { weights, own, fused },
      },
      on,
    );
    for (const at of [weights, ...own]) scope.free(at);
    kept.delete(i);
  }
  await Promise.all(
    fused.map((at) =>
      scope.run("collapseLevels", { at, shape }, { scratch: w * 8 + (1 << 12), ...on }),
    ),
  );
  return { shape, at: fused };
}

/** A frame's weights and channels on the level at which bands end, of the whole picture. */
interface FrameBlocks {
  weights: number;
  own: number[];
}

/** Reduces the frame at hand to the level at which bands end, and keeps the band's own rows of it. */
async function keepCoarsest(
  work: Work,
  { coarser, shape, acc }: Fusion,
  { weights, own }: FrameBlocks,
  part: Band,
  band: Band,
  /** px of a row on that level */
  w: number,
  on: RunOptions,
): Promise<void> {
  const by = 2 ** LEVELS;
  const first = band.y0 / by;
  const rows = Math.ceil(band.y1 / by) - first;
  const skipped = shape.levels.at(-1)!.at + (first - part.y0 / by) * w * 4;
  const planes = [
    [coarser.weights, weights] as const,
    ...own.map((to, c) => [coarser.own[c]!, to] as const),
  ];
  await Promise.all(
    planes.map(async ([at, to]) => {
      await work.run("reduceLevels", { at, shape }, { scratch: acc.width * 8 + (1 << 12), ...on });
      await work.run(
        "copy",
        { from: at + skipped, to: to + first * w * 4, bytes: rows * w * 4 },
        on,
      );
    }),
  );
}

/** Some rows of a fusion as light; `done` gives them back. */
export async function fuseBand(
  work: Work,
  input: BandInput,
  band: Band,
  coarse: CoarseFusion,
  { signal }: Watch,
): ReturnType<ComingBand["take"]> {
  await using scope = new TaskScope(work);
  const on: RunOptions = signal ? { signal } : {};
  const { height } = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const part = widened(band, FUSION_MARGIN, height);
  const fusion = await beginFusion(scope, input, part, LEVELS, () => undefined, on);
  const { acc, coarser, shape } = fusion;
  const last = shape.levels.at(-1)!;
  await fusion.eachFrame(undefined, () => addCoarseLevels(scope, fusion, on));
  // the last level of the band's own pyramid is the coarse fusion's first
  await Promise.all(
    coarser.fused.map(async (at, c) => {
      await scope.run(
        "copy",
        {
          from: coarse.at[c]! + (part.y0 / 2 ** LEVELS) * last.w * 4,
          to: at + last.at,
          bytes: last.w * last.h * 4,
        },
        on,
      );
      await scope.run(
        "collapseLevels",
        { at, shape },
        { scratch: acc.width * 8 + (1 << 12), ...on },
      );
    }),
  );
  await toLight(scope, fusion, on);
  scope.keep(acc.ptr);
  return {
    rows: {
      ...acc,
      ptr: acc.ptr + (band.y0 - part.y0) * acc.width * 4,
      height: band.y1 - band.y0,
    },
    done: () => work.free(acc.ptr),
  };
}
