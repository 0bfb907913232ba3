import type { Lease } from "./lease";
import type { Readers } from "./readers";

/**
 * Leases by key, each made when it is asked for first. The youngest stay; an older one is released
 * once nobody reads it any more, and so is one that is made in vain.
 */
export class LeaseCache<T extends Lease> {
  private readonly entries = new Map<string, Promise<T>>();

  /**
   * An empty cache.
   *
   * @param readers  who may look at what it holds
   * @param most     leases that stay
   */
  constructor(
    private readonly readers: Readers,
    private readonly most: number,
  ) {}

  /** The lease of a key; it stays the cache's. What failed to be made is made anew next time. */
  get(key: string, make: () => Promise<T>): Promise<T> {
    const known = this.entries.get(key);
    if (known) return known;
    const made = make();
    this.entries.set(key, made);
    made.catch(() => {
      if (this.entries.get(key) === made) this.entries.delete(key);
    });
    this.shrinkTo(this.most);
    return made;
  }

  clear(): void {
    this.shrinkTo(0);
  }

  private shrinkTo(most: number): void {
    for (const [key, lease] of this.entries) {
      if (this.entries.size <= most) return;
      this.entries.delete(key);
      this.readers.retire(() => {
        lease.then(
          (made) => made.release(),
          () => undefined,
        );
      });
    }
  }
}
