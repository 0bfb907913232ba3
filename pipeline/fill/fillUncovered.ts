import { patchworkAt, patchworkScratch } from "../../core/panorama/fill/fillUncovered";
import type { Accumulator } from "../../core/raster/accumulator";
import { rowsOf, type RunOptions } from "../../runtime/work";
import type { Work } from "../work";

/**
 * Fills what no frame covers after the likes of what they do.
 *
 * @param acc  planes of light, and of what is covered: 0 where nothing is, 1 where something is
 */
export async function fillUncovered(work: Work, acc: Accumulator, on: RunOptions): Promise<void> {
  const at = work.allocate(patchworkAt(0, acc).bytes);
  const patchwork = patchworkAt(at, acc);
  await work.run(
    "makePatchwork",
    { acc, patchwork },
    { scratch: patchworkScratch(patchwork), ...on },
  );
  await Promise.all(
    rowsOf(acc.height, work.threads * 4).map(([y0, y1]) =>
      work.run("fillRows", { acc, patchwork, y0, y1 }, on),
    ),
  );
  work.free(at);
}

/** The same in a merge whose fourth plane holds weights: what is filled counts as the rest on average. */
export async function fillBetweenWeights(
  work: Work,
  acc: Accumulator,
  on: RunOptions,
): Promise<void> {
  const weights = work.allocate(acc.planeBytes);
  const strips = rowsOf(acc.height, work.threads * 4);
  const found = await Promise.all(
    strips.map(([y0, y1]) => work.run("setWeightsAside", { acc, weights, y0, y1 }, on)),
  );
  const covered = found.reduce((sum, strip) => sum + strip.covered, 0);
  const mean = covered ? found.reduce((sum, strip) => sum + strip.sum, 0) / covered : 0;
  await fillUncovered(work, acc, on);
  await Promise.all(
    strips.map(([y0, y1]) => work.run("bringWeightsBack", { acc, weights, mean, y0, y1 }, on)),
  );
  work.free(weights);
}
