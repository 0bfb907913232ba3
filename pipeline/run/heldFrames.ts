import { SAMPLE_BYTES } from "../../kernels/heap";
import type { Watch } from "../../runtime/work";
import type { Upright } from "../../core/straighten/findUpright";
import type { Aligned } from "../align/step";
import type { Layout } from "../panorama/layout";
import type { Located } from "../panorama/locateFrames";
import type { Threads } from "../pool";
import { decodeReduced } from "../readFrames";
import { frameKey, type StackFrame } from "../work";
import { type LoadedFrame } from "../loadedFrame";

/** Reduced frames are kept between runs if all together take no more than this, bytes. */
const KEPT_BYTES = 400e6;

/** The latest of what was found, under the key of what it was found from. */
class Latest<T> {
  private entry?: { key: string; value: T };

  at(key: string): T | undefined {
    return this.entry?.key === key ? this.entry.value : undefined;
  }
  set(key: string, value: T): void {
    this.entry = { key, value };
  }
}

/**
 * What stays of a stack between runs for as long as somebody works on it: its frames at the size
 * one works at, and how they lie. Leaving a frame out, giving an area to another one, or another
 * projection reads nothing again.
 */
export class HeldFrames {
  private readonly loaded = new Map<string, LoadedFrame>();
  readonly aligned = new Latest<Aligned>();
  /** what the reference frame's edges say is upright, if anything */
  readonly upright = new Latest<{ found: Upright | undefined }>();
  readonly located = new Latest<Located>();
  readonly layout = new Latest<Layout>();

  constructor(private readonly threads: Threads) {}

  /** The frames at 1/downscale of their size; they stay this object's. */
  async read(
    frames: readonly StackFrame[],
    downscale: number,
    watch: Watch,
  ): Promise<LoadedFrame[]> {
    const missing = frames.filter((f) => !this.loaded.has(loadedKey(f, downscale)));
    const read = await decodeReduced(this.threads, missing, downscale, watch);
    missing.forEach((f, i) => this.loaded.set(loadedKey(f, downscale), read[i]!));
    return this.at(frames, downscale)!;
  }

  /** The same if all of them are here. */
  at(frames: readonly StackFrame[], downscale: number): LoadedFrame[] | undefined {
    const found = frames.map((f) => this.loaded.get(loadedKey(f, downscale)));
    return found.every((f) => f !== undefined) ? found : undefined;
  }

  /** Frees what is too large to be kept; call when nothing of it is in use. */
  trim(): void {
    let bytes = 0;
    for (const f of this.loaded.values()) bytes += f.width * f.height * 3 * SAMPLE_BYTES[f.type];
    if (bytes > KEPT_BYTES) this.drop();
  }

  /** Frees all frames; call when nothing of them is in use. */
  drop(): void {
    for (const f of this.loaded.values()) this.threads.free(f.ptr);
    this.loaded.clear();
  }
}

const loadedKey = (f: StackFrame, downscale: number): string =>
  `${f.id}/${downscale}/${frameKey(f)}`;
