import type { Recipe } from "../core/recipe/recipe";
import { alignFocus } from "../core/steps/align/alignFocus";
import { alignStep, type Aligned } from "../core/steps/align/step";
import { alignKey } from "../core/steps/keys";
import { referenceOf } from "../core/steps/merge/step";
import { findResponse } from "../core/steps/prepare/step";
import { decodeReduced } from "../core/steps/readFrames";
import {
  frameKey,
  downscaleTo,
  WORK_EDGE,
  type LoadedFrame,
  type StackFrame,
  type Watch,
} from "../core/steps/work";
import type { Pool } from "./pool";
import { SAMPLE_BYTES } from "../kernels/heap";

/** Reduced frames are kept between changes if all together take no more than this, bytes. */
const KEPT_BYTES = 400e6;

/**
 * A stack's frames read at the size one works at, and how they lie, held for as long as somebody
 * works on it: taking a frame out or giving an area to another one reads nothing again.
 */
export class WorkSet {
  private loaded = new Map<string, LoadedFrame>();
  private last?: { key: string; aligned: Aligned };

  constructor(private readonly pool: Pool) {}

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

  async align(
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
          aligned: await alignFocus(this.pool, { frames, loaded, downscale }, recipe.align, {
            progress: (share, doing) => progress(0.7 + share * 0.3, doing),
            ...on,
          }),
        };
        return { loaded, aligned: this.last.aligned, downscale };
      }
      progress(0.75, "Aligning");
      const response = await findResponse(this.pool, frames, loaded, recipe.prepare, on);
      const aligned = await alignStep.run(
        this.pool,
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
