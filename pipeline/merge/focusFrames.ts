import type { DepthGrid } from "../../core/focus/depthGrid";
import { darkNoise } from "../../core/tone/darkNoise";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import { TaskScope } from "../../runtime/taskScope";
import type { RunOptions, Watch } from "../../runtime/work";
import type { Work } from "../work";
import { composeAlongDepth, findDepth } from "./alongDepth";
import { fillUncovered } from "../fill/fillUncovered";
import { fuseByPyramid, type FocusMethod, type FocusPass } from "./focusPass";
import { toScene } from "./finish";
import { addressesOf, type Scene } from "./scene";
import type { MergeInput } from "./input";

/**
 * Fuses a focus run by pyramids; or composes it in a second pass along a map of depth made of that;
 * or by both, the pyramid's where depths cross. The scene's `sources` tells which frame was
 * sharpest.
 */
export async function focusFrames(
  work: Work,
  input: MergeInput,
  method: FocusMethod,
  { progress, signal }: Watch,
): Promise<Scene> {
  const aligned = await input.aligned;
  await using scope = new TaskScope(work);
  const on = signal ? { signal } : {};
  const passes = method === "pyramid" ? 1 : 2;
  const pass = await fuseByPyramid(
    scope,
    { ...input, aligned },
    undefined,
    (k, of) => progress((k + 1) / of / passes, `Fusing frames, ${k + 1} of ${of}`),
    on,
  );
  const { acc, inStrips } = pass;
  let depth: { depth?: DepthGrid } = {};
  if (method !== "pyramid" || input.sources) {
    const map = await findDepth(scope, pass.sharp, pass.order, on);
    depth = { depth: map.grid };
    if (method !== "pyramid")
      await composeAlongDepth(
        scope,
        pass,
        map,
        method === "mixed",
        (k, of) => progress((1 + (k + 1) / of) / 2, `Composing along the depth, ${k + 1} of ${of}`),
        on,
      );
    for (const at of [map.depth, map.trust]) scope.free(at);
  }
  // the weight of a finished scene says that it is covered
  await inStrips((y0, y1) => scope.run("fusedToScene", { acc, y0, y1, ...pass.covered }, on));
  if (input.fill) await fillUncovered(scope, acc, on);
  const sources = input.sources ? { sources: await spreadSources(scope, pass, on) } : {};
  const noise = darkNoise(input.frames[input.reference]!.info);
  const scene = await toScene(
    scope,
    { ...acc, ...depth, ...sources },
    { basisParts: BASIS_PARTS, noise },
    on,
  );
  scope.keep(...addressesOf(scene));
  return scene;
}

/** Which frame was sharpest at each pixel; the address of a byte each. */
async function spreadSources(
  scope: Work,
  { acc: { width, height }, sharp }: FocusPass,
  on: RunOptions,
): Promise<number> {
  const to = scope.allocate(width * height);
  await scope.run(
    "spreadSources",
    { from: sharp.sources, w: sharp.w, h: sharp.h, to, width, height },
    on,
  );
  return to;
}
