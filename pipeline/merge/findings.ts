import { sharpScratch } from "../../core/focus/sharpMap";
import { exposureEv } from "../../core/frame/frame";
import { decodingAllowance } from "../allowance";
import { alignStep } from "../align/step";
import type { Threads } from "../pool";
import type { OneViewRecipe } from "../recipe/recipe";
import type { Fact } from "../step";
import type { StackFrame } from "../work";
import type { MergeFindings } from "./input";
import { sharesOf, statisticsOf } from "./measures";
import { plain } from "./scene";
import { mergeStep } from "./step";
import type { FindSuspects, MergedScene } from "./suspects";

/** Frames are counted for clipped samples at this part of their size. */
const CLIPPING_DOWNSCALE = 8;

/** Measures what there is to tell about a merged bracket or focus run. */
export async function mergeFindings(
  threads: Threads,
  input: MergedScene & { frames: readonly StackFrame[] },
  findSuspects: FindSuspects,
  on: { signal?: AbortSignal },
): Promise<MergeFindings> {
  const { scene, frames, aligned } = input;
  const { sharp } = aligned;
  const px = scene.width * scene.height;
  const byTime = [...frames].sort(
    (a, b) => (exposureEv(a.info.exif) ?? 0) - (exposureEv(b.info.exif) ?? 0),
  );
  const clippingOf = ({ source, info }: StackFrame): Promise<{ bright: number; dark: number }> =>
    threads.run(
      "clipping",
      { source, downscale: CLIPPING_DOWNSCALE },
      { subject: source.name, allowanceMs: decodingAllowance(info), ...on },
    );
  const [statistics, darkest, brightest, suspects, shares, sharpMerged] = await Promise.all([
    statisticsOf(threads, scene, on),
    clippingOf(byTime[0]!),
    clippingOf(byTime.at(-1)!),
    findSuspects(threads, input, on),
    sharesOf(threads, scene, frames.length, on),
    sharp &&
      threads.run("sharpShare", { acc: plain(scene), sharp }, { scratch: sharpScratch(px), ...on }),
  ]);
  return {
    aligned,
    statistics,
    clippedBright: darkest.bright,
    clippedDark: brightest.dark,
    suspects,
    shares,
    ...(sharpMerged === undefined ? {} : { sharp: sharpMerged }),
    ...(scene.depth ? { depth: scene.depth } : {}),
  };
}

/** The measurements of a merge as its proof lists them. */
export const factsOf = (
  findings: MergeFindings,
  { merge }: Pick<OneViewRecipe, "merge">,
): Fact[] => [...mergeStep.facts(findings, merge), ...alignStep.facts(findings.aligned)];
