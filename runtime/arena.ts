/**
 * Addresses in the workers' memory: first fit over a sorted list of free blocks. The bytes are
 * never touched here.
 */
export class Arena {
  private gaps: { at: number; size: number }[];
  private readonly used = new Map<number, number>();
  peak = 0;

  constructor(start: number, end: number) {
    this.gaps = [{ at: start, size: end - start }];
  }

  /**
   * Allocates so many bytes.
   *
   * @returns an address on a 64-byte border, or undefined when nothing fits
   */
  allocate(bytes: number): number | undefined {
    const size = Math.ceil(Math.max(bytes, 1) / 64) * 64;
    const i = this.gaps.findIndex((b) => b.size >= size);
    if (i < 0) return undefined;
    const block = this.gaps[i]!;
    const at = block.at;
    if (block.size === size) this.gaps.splice(i, 1);
    else {
      block.at += size;
      block.size -= size;
    }
    this.used.set(at, size);
    this.peak = Math.max(this.peak, at + size);
    return at;
  }

  /** Frees what was allocated at an address; an address that is not in use is ignored. */
  free(at: number): void {
    const size = this.used.get(at);
    if (size === undefined) return;
    this.used.delete(at);
    let i = this.gaps.findIndex((b) => b.at > at);
    if (i < 0) i = this.gaps.length;
    this.gaps.splice(i, 0, { at, size });
    for (const k of [i, i - 1]) {
      const a = this.gaps[k];
      const b = this.gaps[k + 1];
      if (a && b && a.at + a.size === b.at) {
        a.size += b.size;
        this.gaps.splice(k + 1, 1);
      }
    }
  }

  get inUse(): number {
    let s = 0;
    for (const v of this.used.values()) s += v;
    return s;
  }
}
