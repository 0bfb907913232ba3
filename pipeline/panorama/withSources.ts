import { TaskScope } from "../../runtime/taskScope";
import type { Watch } from "../../runtime/work";
import { sceneOf, type Scene } from "../merge/scene";
import type { Threads } from "../pool";
import type { Layout } from "./layout";

/**
 * A joined scene with the frame that gave each of its pixels, as the seams have it.
 *
 * @param scene  whose memory is the result's from then on
 */
export async function withSources(
  threads: Threads,
  scene: Scene,
  { labels }: Layout,
  { signal }: Pick<Watch, "signal">,
): Promise<Scene> {
  await using scope = new TaskScope(threads);
  const on = signal ? { signal } : {};
  const { width, height } = scene;
  const sources = scope.allocate(width * height);
  const from = scope.allocate(labels.of.length);
  await scope.run("put", { ptr: from, bytes: labels.of }, on);
  await scope.run(
    "spreadSources",
    { from, w: labels.width, h: labels.height, to: sources, width, height },
    on,
  );
  scope.keep(sources);
  return sceneOf(threads, { ...scene, sources });
}
