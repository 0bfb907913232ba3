import { darkNoise } from "../../core/tone/darkNoise";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import type { RunOptions, Watch } from "../../runtime/work";
import type { Work } from "../work";
import { beginFusion, type Fusion } from "./fusion";
import { toneAnalysis } from "./mergeFrames";
import type { Scene } from "./scene";
import { sourceMap, withSources, type SourceMap } from "./sourceMap";
import type { MergeInput } from "./input";

/**
 * Exposure fusion of the aligned frames at 1/downscale of their size: a picture, not radiance, put
 * into the scene's planes as the light that shows it.
 */
export async function fuseFrames(
  work: Work,
  input: MergeInput,
  { progress, signal }: Watch,
): Promise<Scene> {
  const on = signal ? { signal } : {};
  const fusion = await beginFusion(
    work,
    input,
    undefined,
    Infinity,
    (k, of) => progress((k + 1) / of, `Fusing frames, ${k + 1} of ${of}`),
    on,
  );
  const { acc, shape, coarser } = fusion;
  let map: SourceMap | undefined;
  let shares: number | undefined;
  try {
    map = input.sources ? sourceMap(work, acc) : undefined;
    shares = map && work.allocate(acc.width * acc.height * 4 + 64);
    await map?.clear(on);
    await fusion.eachFrame(shares, async (i) => {
      if (shares !== undefined) await map?.claim(shares, false, i, on);
      await addCoarseLevels(work, fusion, on);
    });
    await Promise.all(
      coarser.fused.map((at) =>
        work.run("collapseLevels", { at, shape }, { scratch: acc.width * 8 + (1 << 12), ...on }),
      ),
    );
    await toLight(work, fusion, on);
    if (shares !== undefined) work.free(shares);
    const scene = {
      ...acc,
      ...(await toneAnalysis(
        work,
        acc,
        { basisParts: BASIS_PARTS, noise: darkNoise(input.frames[input.reference]!.info) },
        on,
      )),
    };
    return map ? withSources(work, scene, map) : scene;
  } catch (e) {
    await fusion.drop();
    map?.drop();
    if (shares !== undefined) work.free(shares);
    throw e;
  }
}

/** Adds the coarser levels of the frame at hand to those of all. */
export async function addCoarseLevels(
  work: Work,
  { acc, shape, coarser }: Pick<Fusion, "acc" | "shape" | "coarser">,
  on: RunOptions,
): Promise<void> {
  await work.run(
    "reduceLevels",
    { at: coarser.weights, shape },
    { scratch: acc.width * 8 + (1 << 12), ...on },
  );
  await Promise.all(
    [0, 1, 2].map((channel) =>
      work.run(
        "addCoarser",
        { coarser, shape, channel },
        { scratch: acc.width * 8 + (1 << 12), ...on },
      ),
    ),
  );
}

/**
 * Adds the collapsed coarser levels to the finest, and turns the fused picture into light; of the
 * fusion only its planes are left.
 */
export async function toLight(work: Work, fusion: Fusion, on: RunOptions): Promise<void> {
  const { acc, coarser } = fusion;
  await fusion.inStrips((y0, y1) =>
    work.run(
      "addUp",
      { acc, coarser: coarser.fused, y0, y1 },
      { scratch: acc.width * 4 + (1 << 12), ...on },
    ),
  );
  await fusion.inStrips((y0, y1) => work.run("fusedToScene", { acc, y0, y1 }, on));
  fusion.done();
}
