import { movedSuspects } from "../../core/suspects/focusSuspects";
import { ranked, type Suspect } from "../../core/suspects/suspect";
import type { Aligned } from "../align/step";
import type { Threads } from "../pool";
import type { OneViewRecipe } from "../recipe/recipe";
import { plain, type Scene } from "./scene";

/** A merged scene, and how its frames lie in it. */
export interface MergedScene {
  scene: Scene;
  aligned: Aligned;
  recipe: OneViewRecipe;
  /** of the scene, from full size */
  downscale: number;
}
type On = { signal?: AbortSignal };
/** Looks for places of a merge that deserve a look. */
export type FindSuspects = (threads: Threads, input: MergedScene, on: On) => Promise<Suspect[]>;

/** Places of a bracket's merge that deserve a look; a fusion keeps no weights to judge by. */
export async function bracketSuspects(
  threads: Threads,
  { scene, aligned, recipe, downscale }: MergedScene,
  on: On,
): Promise<Suspect[]> {
  if (recipe.merge.method !== "radiance") return [];
  const frames = aligned.frames.map(({ ghosts, differs }) => ({ ghosts, differs }));
  return threads.run("mergeSuspects", { acc: plain(scene), frames, downscale }, on);
}

/**
 * Places of a focus run's merge that deserve a look: bands that no frame shows sharply, halos, edges
 * that lie elsewhere in two neighbours, and what moved.
 */
export async function focusSuspects(
  threads: Threads,
  { scene, aligned, downscale }: MergedScene,
  on: On,
): Promise<Suspect[]> {
  const { order, gaps, sharp, moved = [], displaced = [] } = aligned;
  const { sources, width, height } = scene;
  const still = movedSuspects(moved);
  if (!order || sources === undefined) return ranked(still);
  const labelled = { sources, width, height, downscale };
  const found = await Promise.all([
    gaps?.length && sharp
      ? threads.run("softBands", { ...labelled, run: { order, gaps, sharp } }, on)
      : [],
    threads.run("fusionHalos", { acc: plain(scene), sources, order, downscale }, on),
    displaced.length ? threads.run("doubledEdges", { ...labelled, displaced, moved }, on) : [],
  ]);
  return ranked([...found.flat(), ...still]);
}
