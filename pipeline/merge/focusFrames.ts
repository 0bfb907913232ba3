import type { DepthGrid } from "../../core/focus/depthGrid";
import { darkNoise } from "../../core/tone/darkNoise";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import type { Watch } from "../../runtime/work";
import type { Work } from "../work";
import { composeAlongDepth, findDepth } from "./alongDepth";
import { fuseByPyramid, type FocusMethod } from "./focusPass";
import { toneAnalysis } from "./mergeFrames";
import type { Scene } from "./scene";
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
  const on = signal ? { signal } : {};
  const passes = method === "pyramid" ? 1 : 2;
  const pass = await fuseByPyramid(
    work,
    { ...input, aligned },
    undefined,
    (k, of) => progress((k + 1) / of / passes, `Fusing frames, ${k + 1} of ${of}`),
    on,
  );
  const { acc, sharp, inStrips, allocate: allocate } = pass;
  const { width, height } = acc;
  let sources: number | undefined;
  let depth: DepthGrid | undefined;
  try {
    if (method !== "pyramid" || input.sources) {
      const map = await findDepth(work, sharp, pass.order, on);
      depth = map.grid;
      try {
        if (method !== "pyramid")
          await composeAlongDepth(
            work,
            pass,
            map,
            method === "mixed",
            (k, of) =>
              progress((1 + (k + 1) / of) / 2, `Composing along the depth, ${k + 1} of ${of}`),
            on,
          );
      } finally {
        await work.idle();
        work.free(map.depth);
        work.free(map.trust);
      }
    }
    // the weight of a finished scene says that it is covered
    await inStrips((y0, y1) => work.run("fusedToScene", { acc, y0, y1 }, on));
    if (input.sources) {
      sources = allocate(width * height);
      await work.run(
        "spreadSources",
        { from: sharp.sources, w: sharp.w, h: sharp.h, to: sources, width, height },
        on,
      );
    }
    const scene = {
      ...acc,
      ...(depth ? { depth } : {}),
      ...(await toneAnalysis(
        work,
        acc,
        { basisParts: BASIS_PARTS, noise: darkNoise(input.frames[input.reference]!.info) },
        on,
      )),
    };
    pass.done(sources);
    return sources === undefined
      ? scene
      : {
          ...scene,
          sources,
          release() {
            scene.release();
            work.free(sources!);
          },
        };
  } catch (e) {
    await pass.drop();
    throw e;
  }
}
