/**
 * Who reads memory at the moment, so that it is freed when those who read it are done, without
 * waiting for anybody who came later.
 */
export class Readers {
  private readonly reading = new Set<Promise<unknown>>();

  /** Notes a piece of work as reading until it settles. */
  note<R>(work: Promise<R>): Promise<R> {
    this.reading.add(work);
    const done = (): void => void this.reading.delete(work);
    work.then(done, done);
    return work;
  }

  /** Frees something that can no longer be found, once all who may have found it are done. */
  retire(free: () => void): void {
    void Promise.allSettled([...this.reading]).then(free);
  }
}
