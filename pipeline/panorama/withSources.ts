import type { Watch } from "../../runtime/work";
import type { Scene } from "../merge/scene";
import type { Threads } from "../pool";
import type { Layout } from "./layout";

/**
 * A joined scene with the frame that gave each of its pixels, as the seams have it. Releasing it
 * releases the given one, which is done here where this fails.
 */
export async function withSources(
  threads: Threads,
  scene: Scene,
  { labels }: Layout,
  { signal }: Pick<Watch, "signal">,
): Promise<Scene> {
  const on = signal ? { signal } : {};
  const { width, height } = scene;
  const taken: number[] = [];
  const allocate = (bytes: number): number => {
    const at = threads.allocate(bytes);
    taken.push(at);
    return at;
  };
  try {
    const sources = allocate(width * height);
    const from = allocate(labels.of.length);
    await threads.run("put", { ptr: from, bytes: labels.of }, on);
    await threads.run(
      "spreadSources",
      { from, w: labels.width, h: labels.height, to: sources, width, height },
      on,
    );
    threads.free(from);
    return {
      ...scene,
      sources,
      release() {
        scene.release();
        threads.free(sources);
      },
    };
  } catch (e) {
    await threads.idle();
    taken.forEach((at) => threads.free(at));
    scene.release();
    throw e;
  }
}
