import type { Work } from "../work";
import type { Accumulator } from "../../core/raster/accumulator";
import type { Holes, Fill } from "../../core/bracket/fillHoles";
import { type RunOptions, rowsOf } from "../../runtime/work";
import { plain, sceneOf, type Scene, type SceneParts } from "./scene";
import { finalise } from "./fold";
import { gridSize } from "../../core/tone/toneGrid";
import { basisBytes, basisScratch } from "../../core/tone/toneBasis";
import { QUANTILE_SCRATCH } from "../../core/math/quantiles";

/**
 * What is made of a scene for toning: how many of the BASIS_PARTS (a frame that is shown as it is
 * needs none), and the scene's noise in the dark, linear.
 */
export interface ToneAnalysis {
  basisParts: number;
  noise: number;
}

/** Ends a sum of exposures: as scene radiance, its holes filled from what lies round them. */
export async function finish(
  work: Work,
  acc: Accumulator,
  matrix: number[],
  holes: Holes | undefined,
  on: RunOptions,
): Promise<Accumulator & { fill?: Fill }> {
  await finalise(work, acc, matrix, on);
  if (!holes) return acc;
  const parts = await Promise.all(
    rowsOf(holes.height, work.threads * 2).map(async ([g0, g1]) => ({
      g0,
      g1,
      cells: await work.run("measureCells", { acc, holes, g0, g1 }, on),
    })),
  );
  const fill = await work.run("fillCells", { parts, holes }, on);
  await Promise.all(
    rowsOf(acc.height, work.threads * 2).map(([y0, y1]) =>
      work.run("fillHoles", { acc, holes, fill, y0, y1 }, on),
    ),
  );
  return { ...acc, fill };
}

/**
 * A finished merge as a scene: with its reduced picture and what local tone needs of it.
 *
 * @param parts  the rest of the scene; released with it
 */
export async function toScene(
  work: Work,
  parts: Omit<SceneParts, "grid" | "basis">,
  analysis: ToneAnalysis,
  on: RunOptions,
): Promise<Scene> {
  return sceneOf(work, { ...parts, ...(await analyse(work, parts, analysis, on)) });
}

/** A picture reduced, and what local tone needs of it behind that: one block of the caller's. */
export async function analyse(
  work: Work,
  parts: Accumulator,
  { basisParts, noise }: ToneAnalysis,
  on: RunOptions,
): Promise<Pick<SceneParts, "grid" | "basis">> {
  const size = gridSize(parts.width, parts.height);
  const planes = size.width * size.height * 4;
  const ptr = work.allocate(planes + basisBytes(size));
  const cells = { ...size, ptr };
  const basis = ptr + planes;
  await Promise.all(
    rowsOf(size.height, work.threads * 2).map(([g0, g1]) =>
      work.run("reduce", { scene: plain(parts), grid: cells, g0, g1 }, on),
    ),
  );
  const grid = await work.run(
    "floorGrid",
    { grid: cells, noise, basis },
    { scratch: QUANTILE_SCRATCH, ...on },
  );
  await Promise.all(
    Array.from({ length: basisParts }, (_, part) =>
      work.run("toneBasis", { grid, basis, part }, { scratch: basisScratch(size), ...on }),
    ),
  );
  return { grid, basis };
}
