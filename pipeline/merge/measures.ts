import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import type { Threads } from "../pool";
import type { Scene } from "./scene";

const STATISTICS_SCRATCH = 1 << 18;
type On = { signal?: AbortSignal };

/** How bright a scene is, and over how many stops. */
export const statisticsOf = (
  threads: Threads,
  { grid }: Pick<Scene, "grid">,
  on: On,
): Promise<SceneStatistics> =>
  threads.run("statistics", { grid }, { scratch: STATISTICS_SCRATCH, ...on });

/**
 * Share of a scene from each of so many frames, and last from none; empty where it was not noted
 * which frame gave which pixel.
 */
export async function sharesOf(
  threads: Threads,
  { sources, width, height }: Pick<Scene, "sources" | "width" | "height">,
  frames: number,
  on: On,
): Promise<number[]> {
  if (sources === undefined) return [];
  return threads.run("sourceShares", { sources, n: width * height, frames }, on);
}
