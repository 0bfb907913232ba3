import { SAMPLE_BYTES } from "../kernels/heap";
import { decodeInto } from "./readFrames";
import { decodedBytes, type StackFrame, type Work, type WorkTasks } from "./work";
import { type LoadedFrame } from "./loadedFrame";
import { TaskScope } from "../runtime/taskScope";

/**
 * Frames that are read one after the other, each ahead of its turn, and kept while there is room:
 * the one asked for longest ago goes first.
 */
export class KeptFrames {
  private readonly kept = new Map<
    number,
    { frame: Promise<LoadedFrame>; /** once it is read */ bytes: number }
  >();
  private stopped = false;
  private readonly work: TaskScope<WorkTasks>;

  /**
   * Frames that stay in memory after they were read.
   *
   * @param downscale  they are read at 1/downscale of their size
   * @param most  bytes that are kept
   */
  constructor(
    work: Work,
    private readonly frames: readonly StackFrame[],
    private readonly downscale: number,
    private readonly signal?: AbortSignal,
    private readonly most = 200e6,
  ) {
    this.work = new TaskScope(work);
  }

  /** The frame at a place, for as long as it takes to ask for two more. */
  async read(i: number): Promise<LoadedFrame> {
    const asked = this.kept.get(i) ?? {
      frame: decodeInto(this.work, this.frames[i]!, this.downscale, this.signal),
      bytes: 0,
    };
    // the latest asked for comes last
    this.kept.delete(i);
    this.kept.set(i, asked);
    try {
      const { width, height, type } = await asked.frame;
      asked.bytes = width * height * 3 * SAMPLE_BYTES[type];
    } catch (e) {
      if (this.kept.get(i) === asked) this.kept.delete(i);
      throw e;
    }
    for (const [k, { frame }] of this.kept) {
      // the one that is warped and the one that is read meanwhile stay
      if (k === i || this.kept.size <= 2 || this.bytes() <= this.most) break;
      this.kept.delete(k);
      this.work.free((await frame).ptr);
    }
    return asked.frame;
  }

  /**
   * Reads frames that will be asked for in this order, one at a time, until there is no more room.
   * What fails does so when it is asked for.
   */
  async readAhead(order: readonly number[]): Promise<void> {
    for (const i of order) {
      if (
        this.stopped ||
        this.bytes() + decodedBytes(this.frames[i]!.info, this.downscale) > this.most
      )
        return;
      await this.read(i).catch(() => undefined);
    }
  }

  /** Stops reading ahead. */
  stop(): void {
    this.stopped = true;
  }

  /** Frees all of them, once they are read and no task that was asked for here works on them. */
  async drop(): Promise<void> {
    this.stop();
    this.kept.clear();
    await this.work[Symbol.asyncDispose]();
  }

  private bytes(): number {
    return [...this.kept.values()].reduce((sum, { bytes }) => sum + bytes, 0);
  }
}
