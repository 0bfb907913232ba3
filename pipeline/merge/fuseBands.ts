import { pyramidShape, type PyramidShape } from "../../core/raster/pyramid";
import { sizeAt } from "../step";
import { MemoryScope } from "../../runtime/memoryScope";
import { cleared, type RunOptions, type Watch } from "../../runtime/work";
import { type Work } from "../work";
import type { Aligned } from "../align/step";
import { widened, type Band, type ComingBand } from "./band";
import { addCoarseLevels, toLight } from "./fuseFrames";
import { beginFusion } from "./fusion";
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
 * block a channel.
 */
export interface CoarseFusion {
  shape: PyramidShape;
  at: readonly number[];
  release(): void;
}

/**
 * The coarse levels of a fusion that does not fit in memory whole: goes through it band by band,
 * and of each frame's weights and channels keeps the level at which the bands end. Together with
 * fuseBand it gives the bytes of fuseFrames.
 *
 * @param bands  beginning at multiples of 2^LEVELS
 */
export async function fuseCoarse(
  work: Work,
  input: BandInput,
  bands: readonly Band[],
  { progress, signal }: Watch,
): Promise<CoarseFusion> {
  const on = signal ? { signal } : {};
  const size = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const by = 2 ** LEVELS;
  const shape = pyramidShape(Math.ceil(size.width / by), Math.ceil(size.height / by));
  const { w } = shape.levels[0]!;
  const memory = new MemoryScope(work);
  const { free: free } = memory;
  const block = (): number => memory.allocate(shape.bytes);
  const fused = [block(), block(), block()];
  const kept = new Map<number, { weights: number; own: number[] }>();
  try {
    for (const f of fused) await cleared(work, f, shape.bytes, on);
    for (const [b, band] of bands.entries()) {
      const part = widened(
        band,
        FUSION_MARGIN,
        sizeAt(input.frames[input.reference]!.info, input.downscale).height,
      );
      const fusion = await beginFusion(
        work,
        input,
        part,
        LEVELS,
        (k, of) =>
          progress(
            (b + (k + 1) / of) / bands.length,
            `Fusing frames, part ${b + 1} of ${bands.length}`,
          ),
        on,
      );
      const { coarser, shape: own } = fusion;
      const last = own.levels.at(-1)!;
      try {
        await fusion.eachFrame(undefined, async (i) => {
          const to = kept.get(i) ?? { weights: block(), own: [block(), block(), block()] };
          kept.set(i, to);
          await Promise.all(
            [
              [coarser.weights, to.weights] as const,
              ...to.own.map((at, c) => [coarser.own[c]!, at] as const),
            ].map(async ([at, dst]) => {
              await work.run(
                "reduceLevels",
                { at, shape: own },
                { scratch: fusion.acc.width * 8 + (1 << 12), ...on },
              );
              const first = band.y0 / by;
              const rows = Math.ceil(band.y1 / by) - first;
              await work.run(
                "copy",
                {
                  from: at + last.at + (first - part.y0 / by) * w * 4,
                  to: dst + first * w * 4,
                  bytes: rows * w * 4,
                },
                on,
              );
            }),
          );
        });
      } finally {
        await fusion.drop();
      }
    }
    for (const [i, { weights, own }] of kept) {
      await addCoarseLevels(
        work,
        {
          acc: { width: w, height: 0, ptr: 0, planeBytes: 0 },
          shape,
          coarser: { weights, own, fused },
        },
        on,
      );
      for (const at of [weights, ...own]) free(at);
      kept.delete(i);
    }
    await Promise.all(
      fused.map((at) =>
        work.run("collapseLevels", { at, shape }, { scratch: w * 8 + (1 << 12), ...on }),
      ),
    );
    return {
      shape,
      at: fused,
      release: () => {
        for (const f of fused) free(f);
      },
    };
  } catch (e) {
    await memory.dispose();
    throw e;
  }
}

/** Some rows of a fusion as light; `done` gives them back. */
export async function fuseBand(
  work: Work,
  input: BandInput,
  band: Band,
  coarse: CoarseFusion,
  { signal }: Watch,
): ReturnType<ComingBand["take"]> {
  const on: RunOptions = signal ? { signal } : {};
  const part = widened(
    band,
    FUSION_MARGIN,
    sizeAt(input.frames[input.reference]!.info, input.downscale).height,
  );
  const fusion = await beginFusion(work, input, part, LEVELS, () => undefined, on);
  const { acc, coarser, shape } = fusion;
  const last = shape.levels.at(-1)!;
  try {
    await fusion.eachFrame(undefined, () => addCoarseLevels(work, fusion, on));
    // the last level of the band's own pyramid is the coarse fusion's first
    await Promise.all(
      coarser.fused.map(async (at, c) => {
        await work.run(
          "copy",
          {
            from: coarse.at[c]! + (part.y0 / 2 ** LEVELS) * last.w * 4,
            to: at + last.at,
            bytes: last.w * last.h * 4,
          },
          on,
        );
        await work.run(
          "collapseLevels",
          { at, shape },
          { scratch: acc.width * 8 + (1 << 12), ...on },
        );
      }),
    );
    await toLight(work, fusion, on);
    return {
      rows: {
        ...acc,
        ptr: acc.ptr + (band.y0 - part.y0) * acc.width * 4,
        height: band.y1 - band.y0,
      },
      done: () => work.free(acc.ptr),
    };
  } catch (e) {
    await fusion.drop();
    throw e;
  }
}
