import { darkNoise } from "../../core/tone/darkNoise";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import { TaskScope } from "../../runtime/taskScope";
import type { RunOptions, Watch } from "../../runtime/work";
import type { Work } from "../work";
import { fillUncovered } from "../fill/fillUncovered";
import { beginFusion, type Fusion } from "./fusion";
import { toScene } from "./finish";
import { addressesOf, type Scene } from "./scene";
import { sourceMap } from "./sourceMap";
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
  await using scope = new TaskScope(work);
  const on = signal ? { signal } : {};
  const fusion = await beginFusion(
    scope,
    input,
    undefined,
    Infinity,
    (k, of) => progress((k + 1) / of, `Fusing frames, ${k + 1} of ${of}`),
    on,
  );
  const { acc, shape, coarser } = fusion;
  const map = input.sources ? sourceMap(scope, acc) : undefined;
  const shares = map && scope.allocate(acc.width * acc.height * 4 + 64);
  await map?.clear(on);
  await fusion.eachFrame(shares, async (i) => {
    if (shares !== undefined) await map?.claim(shares, false, i, on);
    await addCoarseLevels(scope, fusion, on);
  });
  await Promise.all(
    coarser.fused.map((at) =>
      scope.run("collapseLevels", { at, shape }, { scratch: acc.width * 8 + (1 << 12), ...on }),
    ),
  );
  await toLight(scope, fusion, on);
  if (input.fill) await fillUncovered(scope, acc, on);
  if (shares !== undefined) scope.free(shares);
  const noise = darkNoise(input.frames[input.reference]!.info);
  const scene = await toScene(
    scope,
    { ...acc, ...(map ? { sources: map.sources } : {}) },
    { basisParts: BASIS_PARTS, noise },
    on,
  );
  scope.keep(...addressesOf(scene));
  return scene;
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
  await fusion.inStrips((y0, y1) =>
    work.run("fusedToScene", { acc, y0, y1, ...fusion.covered }, on),
  );
  for (const at of [coarser.weights, ...coarser.own, ...coarser.fused]) work.free(at);
}
