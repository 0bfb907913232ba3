import type { Runtime } from "./work";

/**
 * What a piece of work holds of the workers' memory: given back address by address, and the rest at
 * once when it ends or fails.
 */
export class MemoryScope {
  private readonly addresses: Set<number>;

  /**
   * Memory of one piece of work, given back together.
   *
   * @param already  addresses that were taken for it
   */
  constructor(
    private readonly work: Pick<Runtime<unknown>, "allocate" | "free" | "idle">,
    ...already: readonly number[]
  ) {
    this.addresses = new Set(already);
  }

  /** Takes so many bytes more. @throws RhizomeError `memory-full` */
  allocate = (bytes: number): number => {
    const at = this.work.allocate(bytes);
    this.addresses.add(at);
    return at;
  };

  /** What was given back before is not given twice. */
  free = (at: number): void => {
    if (this.addresses.delete(at)) this.work.free(at);
  };

  /** Gives back all but what is named, on which no thread works any more. */
  freeAll(...but: readonly (number | undefined)[]): void {
    for (const at of this.addresses) if (!but.includes(at)) this.free(at);
  }

  /** Gives back everything, once no thread works on it. */
  async dispose(): Promise<void> {
    await this.work.idle();
    this.freeAll();
  }
}
