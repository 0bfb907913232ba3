import type { Work } from "./work";

/**
 * What a piece of work holds of the workers' memory: given back address by address, and the rest at
 * once when it ends or fails.
 */
export class Holding {
  private readonly held: Set<number>;

  /**
   * Memory of one piece of work, given back together.
   *
   * @param already  addresses that were taken for it
   */
  constructor(
    private readonly work: Pick<Work, "take" | "give" | "idle">,
    ...already: readonly number[]
  ) {
    this.held = new Set(already);
  }

  /** Takes so many bytes more. @throws RhizomeError `memory-full` */
  take = (bytes: number): number => {
    const at = this.work.take(bytes);
    this.held.add(at);
    return at;
  };

  /** What was given back before is not given twice. */
  give = (at: number): void => {
    if (this.held.delete(at)) this.work.give(at);
  };

  /** Gives back all but what is named, on which no thread works any more. */
  giveAll(...but: readonly (number | undefined)[]): void {
    for (const at of this.held) if (!but.includes(at)) this.give(at);
  }

  /** Gives back everything, once no thread works on it. */
  async drop(): Promise<void> {
    await this.work.idle();
    this.giveAll();
  }
}
