import type { Recipe } from "../core/recipe/recipe";
import {
  composePanorama,
  locateFrames,
  panoramaStep,
  placeTie,
  type Located,
} from "../core/steps/panorama/step";
import type { Placing } from "../core/steps/panorama/placing";
import { emptyIs } from "../core/steps/edges/step";
import type { Scene } from "../core/steps/merge/scene";
import { joinedKey, locatedKey } from "../core/steps/keys";
import { shrinkTo, WORK_EDGE, type StackFrame, type Watch } from "../core/steps/work";
import {
  keepJoined,
  keepLocated,
  recallJoined,
  recallLocated,
  type JoinedPanorama,
} from "./keptPanorama";
import type { Pool } from "./pool";
import type { Drawer } from "./sceneCache";
import type { WorkSet } from "./workSet";

/** A panorama's frames as they were located, held for as long as somebody works on it: another projection matches nothing again. */
export class PanoramaSet {
  private located?: { key: string; value: Located };

  constructor(
    private readonly pool: Pool,
    private readonly set: WorkSet,
    /** where joined panoramas are kept */ private readonly drawer?: Drawer,
  ) {}

  /** The exact place in frame b of what was pointed at in both, px; undefined if nothing there fits. */
  async placeTie(
    frames: readonly StackFrame[],
    a: number,
    b: number,
    { cameras }: Partial<Pick<Placing, "cameras">>,
    point: Parameters<typeof placeTie>[4],
    on: Omit<Watch, "progress"> = {},
  ): ReturnType<typeof placeTie> {
    const shrink = shrinkTo(frames[0]!.info, WORK_EDGE);
    const [A, B] = await this.set.read([frames[a]!, frames[b]!], shrink, {
      progress: () => undefined,
      ...on,
    });
    const [ca, cb] = [cameras?.[a], cameras?.[b]];
    return placeTie(this.pool, [A!, B!], shrink, ca && cb ? [ca, cb] : undefined, point, on);
  }

  /** Joined at the size one works at. */
  async join(
    frames: readonly StackFrame[],
    recipe: Recipe,
    { progress, ...on }: Watch,
  ): Promise<JoinedPanorama> {
    const shrink = shrinkTo(frames[0]!.info, WORK_EDGE);
    const key = locatedKey(frames, recipe);
    const joined = joinedKey(frames, recipe);
    const kept = this.drawer && (await recallJoined(this.pool, this.drawer, joined));
    if (kept) return kept;
    const held = await this.set.read(frames, shrink, {
      progress: (s, doing) => progress(s * 0.3, doing),
      ...on,
    });
    if (this.located?.key !== key)
      this.located = {
        key,
        value: await this.locate(key, frames, held, recipe, {
          progress: (s, doing) => progress(0.3 + s * 0.4, doing),
          ...on,
        }),
      };
    progress(0.75, "Equalising exposure, finding seams");
    const placing = await composePanorama(this.pool, frames, this.located.value, recipe, on);
    // a picture of many frames is shown as large as one frame would be
    const more = Math.max(
      1,
      Math.ceil(Math.sqrt((placing.canvas.width * placing.canvas.height) / shrink ** 2 / 4e6)),
    );
    const by = shrink * more;
    const scene = await panoramaStep.run(
      this.pool,
      {
        frames,
        placing,
        canvas: placing.canvas,
        shrink: by,
        fill: emptyIs(recipe.edges) === "extend",
        ...(more === 1 ? { held } : {}),
      },
      recipe.panorama,
      { progress: (s, doing) => progress(0.8 + s * 0.2, doing), ...on },
    );
    try {
      const sources = this.pool.take(scene.width * scene.height);
      const n = scene.width * scene.height;
      const whole: Scene = {
        ...scene,
        sources,
        release: () => {
          scene.release();
          this.pool.give(sources);
        },
      };
      const { labels } = placing;
      const from = this.pool.take(labels.of.length);
      await this.pool.run("put", { ptr: from, bytes: labels.of }, on);
      await this.pool.run(
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
      this.pool.give(from);
      const [statistics, shares] = await Promise.all([
        this.pool.run("statistics", { grid: scene.grid }, { scratch: 1 << 18, ...on }),
        this.pool.run("sourceShares", { sources, n, frames: frames.length }, on),
      ]);
      const result = { scene: whole, placing, statistics, shares, shrink: by };
      if (this.drawer) await keepJoined(this.pool, this.drawer, joined, result);
      return result;
    } catch (e) {
      await this.pool.idle();
      scene.release();
      throw e;
    }
  }

  /** From the drawer if these frames were located before. */
  private async locate(
    key: string,
    frames: readonly StackFrame[],
    held: Parameters<typeof locateFrames>[2],
    recipe: Recipe,
    watch: Watch,
  ): Promise<Located> {
    const kept = this.drawer && (await recallLocated(this.pool, this.drawer, key));
    if (kept) return kept;
    const found = await locateFrames(
      this.pool,
      frames,
      held,
      shrinkTo(frames[0]!.info, WORK_EDGE),
      recipe.panorama,
      watch,
    );
    if (this.drawer) await keepLocated(this.pool, this.drawer, key, found);
    return found;
  }
}
