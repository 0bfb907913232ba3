import type { Recipe } from "./recipe/recipe";
import {
  composePanorama,
  locateFrames,
  panoramaStep,
  placeTie,
  type Located,
} from "./panorama/step";
import type { Layout } from "./panorama/layout";
import { emptyIs } from "./edges/step";
import type { Scene } from "./merge/scene";
import { joinedKey, locatedKey } from "./keys";
import { downscaleTo, WORK_EDGE, type StackFrame } from "./work";
import { type Watch } from "../runtime/work";
import {
  keepJoined,
  keepLocated,
  recallJoined,
  recallLocated,
  type JoinedPanorama,
} from "./cache/keptPanorama";
import type { Threads } from "./pool";
import type { ResultCache } from "../runtime/resultCache";
import type { WorkSet } from "./workSet";
import { TaskScope } from "../runtime/taskScope";

/**
 * A panorama's frames as they were located, held for as long as somebody works on it: another
 * projection matches nothing again.
 */
export class PanoramaSet {
  private located?: { key: string; value: Located };

  constructor(
    private readonly pool: Threads,
    private readonly set: WorkSet,
    /** where joined panoramas are kept */
    private readonly resultCache?: ResultCache,
  ) {}

  /**
   * The exact place in frame b of what was pointed at in both, px; undefined if nothing there fits.
   */
  async placeTie(
    frames: readonly StackFrame[],
    a: number,
    b: number,
    { cameras }: Partial<Pick<Layout, "cameras">>,
    point: Parameters<typeof placeTie>[4],
    on: Omit<Watch, "progress"> = {},
  ): ReturnType<typeof placeTie> {
    const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
    const [A, B] = await this.set.read([frames[a]!, frames[b]!], downscale, {
      progress: () => undefined,
      ...on,
    });
    const [ca, cb] = [cameras?.[a], cameras?.[b]];
    return placeTie(this.pool, [A!, B!], downscale, ca && cb ? [ca, cb] : undefined, point, on);
  }

  /** Joined at the size one works at. */
  async join(frames: readonly StackFrame[], recipe: Recipe, watch: Watch): Promise<JoinedPanorama> {
    const threads = new TaskScope(this.pool);
    try {
      return await this.joinOn(threads, frames, recipe, watch);
    } finally {
      await threads.idle();
    }
  }

  private async joinOn(
    threads: Threads,
    frames: readonly StackFrame[],
    recipe: Recipe,
    { progress, ...on }: Watch,
  ): Promise<JoinedPanorama> {
    const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
    const key = locatedKey(frames, recipe);
    const joined = joinedKey(frames, recipe);
    const kept = this.resultCache && (await recallJoined(threads, this.resultCache, joined));
    if (kept) return kept;
    const loaded = await this.set.read(frames, downscale, {
      progress: (s, doing) => progress(s * 0.3, doing),
      ...on,
    });
    if (this.located?.key !== key)
      this.located = {
        key,
        value: await this.locate(threads, key, frames, loaded, recipe, {
          progress: (s, doing) => progress(0.3 + s * 0.4, doing),
          ...on,
        }),
      };
    progress(0.75, "Equalising exposure, finding seams");
    const layout = await composePanorama(threads, frames, this.located.value, recipe, on);
    // a picture of many frames is shown as large as one frame would be
    const more = Math.max(
      1,
      Math.ceil(Math.sqrt((layout.canvas.width * layout.canvas.height) / downscale ** 2 / 4e6)),
    );
    const by = downscale * more;
    const scene = await panoramaStep.run(
      threads,
      {
        frames,
        layout,
        canvas: layout.canvas,
        downscale: by,
        fill: emptyIs(recipe.edges) === "extend",
        ...(more === 1 ? { loaded } : {}),
      },
      recipe.panorama,
      { progress: (s, doing) => progress(0.8 + s * 0.2, doing), ...on },
    );
    try {
      const sources = threads.allocate(scene.width * scene.height);
      const n = scene.width * scene.height;
      const whole: Scene = {
        ...scene,
        sources,
        release: () => {
          scene.release();
          threads.free(sources);
        },
      };
      const { labels } = layout;
      const from = threads.allocate(labels.of.length);
      await threads.run("put", { ptr: from, bytes: labels.of }, on);
      await threads.run(
        "spreadSources",
        {
          from,
          w: labels.width,
          h: labels.height,
          to: sources,
          width: scene.width,
          height: scene.height,
        },
        on,
      );
      threads.free(from);
      const [statistics, shares] = await Promise.all([
        threads.run("statistics", { grid: scene.grid }, { scratch: 1 << 18, ...on }),
        threads.run("sourceShares", { sources, n, frames: frames.length }, on),
      ]);
      const result = { scene: whole, layout, statistics, shares, downscale: by };
      if (this.resultCache) await keepJoined(threads, this.resultCache, joined, result);
      return result;
    } catch (e) {
      await threads.idle();
      scene.release();
      throw e;
    }
  }

  /** From the result cache if these frames were located before. */
  private async locate(
    threads: Threads,
    key: string,
    frames: readonly StackFrame[],
    loaded: Parameters<typeof locateFrames>[2],
    recipe: Recipe,
    watch: Watch,
  ): Promise<Located> {
    const kept = this.resultCache && (await recallLocated(threads, this.resultCache, key));
    if (kept) return kept;
    const found = await locateFrames(
      threads,
      frames,
      loaded,
      downscaleTo(frames[0]!.info, WORK_EDGE),
      recipe.panorama,
      watch,
    );
    if (this.resultCache) await keepLocated(threads, this.resultCache, key, found);
    return found;
  }
}
