import type { Recipe } from "./recipe/recipe";
import { alignFocus } from "./align/alignFocus";
import { alignStep, type Aligned } from "./align/step";
import { alignKey } from "./keys";
import { referenceOf } from "./merge/step";
import { findResponse } from "./prepare/step";
import { decodeReduced } from "./readFrames";
import { frameKey, downscaleTo, WORK_EDGE, type LoadedFrame, type StackFrame } from "./work";
import { type Watch } from "../runtime/work";
import type { Threads } from "./pool";
import { SAMPLE_BYTES } from "../kernels/heap";
import { TaskScope } from "../runtime/taskScope";

/** Reduced frames are kept between changes if all together take no more than this, bytes. */
const KEPT_BYTES = 400e6;

/**
 * A stack's frames read at the size one works at, and how they lie, held for as long as somebody
 * works on it: taking a frame out or giving an area to another one reads nothing again.
 */
export class WorkSet {
  private loaded = new Map<string, LoadedFrame>();
  private last?: { key: string; aligned: Aligned };

  constructor(private readonly pool: Threads) {}

  /** The frames in memory; they stay the set's. */
  async read(
    frames: readonly StackFrame[],
    downscale: number,
    watch: Watch,
  ): Promise<LoadedFrame[]> {
    const keyOf = (f: StackFrame): string => `${f.id}/${downscale}/${frameKey(f)}`;
    const missing = frames.filter((f) => !this.loaded.has(keyOf(f)));
    const read = await decodeReduced(this.pool, missing, downscale, watch);
    missing.forEach((f, i) => this.loaded.set(keyOf(f), read[i]!));
    return frames.map((f) => this.loaded.get(keyOf(f))!);
  }

  /** The same, and how they lie. After a stop or an error no thread works on them any more. */
  async align(
    frames: readonly StackFrame[],
    recipe: Recipe,
    watch: Watch,
  ): Promise<{ loaded: LoadedFrame[]; aligned: Aligned; downscale: number }> {
    const threads = new TaskScope(this.pool);
    try {
      return await this.alignOn(threads, frames, recipe, watch);
    } catch (e) {
      await threads.idle();
      throw e;
    }
  }

  private async alignOn(
    threads: Threads,
    frames: readonly StackFrame[],
    recipe: Recipe,
    { progress, ...on }: Watch,
  ): Promise<{ loaded: LoadedFrame[]; aligned: Aligned; downscale: number }> {
    const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
    const key = alignKey(frames, recipe, downscale);
    const reference = referenceOf(frames, recipe.merge);
    const loaded = await this.read(frames, downscale, {
      progress: (share, doing) => progress(share * 0.7, doing),
      ...on,
    });
    if (this.last?.key !== key) {
      if (recipe.kind === "focus") {
        this.last = {
          key,
          aligned: await alignFocus(threads, { frames, loaded, downscale }, recipe.align, {
            progress: (share, doing) => progress(0.7 + share * 0.3, doing),
            ...on,
          }),
        };
        return { loaded, aligned: this.last.aligned, downscale };
      }
      progress(0.75, "Aligning");
      const response = await findResponse(threads, frames, loaded, recipe.prepare, on);
      const aligned = await alignStep.run(
        threads,
        {
          frames,
          loaded,
          reference,
          deghost: recipe.merge.deghost === "auto",
          strength: recipe.merge.ghostStrength,
          response,
          downscale,
        },
        recipe.align,
        on,
      );
      this.last = { key, aligned };
    }
    return { loaded, aligned: this.last.aligned, downscale };
  }

  /** Gives back what is too large to be kept; call when nothing of it is in use. */
  trim(): void {
    let bytes = 0;
    for (const h of this.loaded.values()) bytes += h.width * h.height * 3 * SAMPLE_BYTES[h.type];
    if (bytes > KEPT_BYTES) this.drop();
  }

  drop(): void {
    for (const h of this.loaded.values()) this.pool.free(h.ptr);
    this.loaded.clear();
  }
}
