/**
 * The memory that jobs at work may take together. Who does not fit waits until others are done; who
 * came first goes first.
 */
export class Room {
  private taken = 0;
  private readonly waiting: { bytes: number; enter: () => void }[] = [];

  constructor(
    /** bytes */
    readonly bytes: number,
  ) {}

  get free(): number {
    return this.bytes - this.taken;
  }
  get isWaitedFor(): boolean {
    return this.waiting.length > 0;
  }

  /** Takes memory if it is there at once. What takes more than all there is goes alone. */
  tryEnter(bytes: number): boolean {
    const needed = Math.min(bytes, this.bytes);
    if (this.isWaitedFor || needed > this.free) return false;
    this.taken += needed;
    return true;
  }

  /** Takes memory as soon as it is there. @throws what the signal is aborted by */
  async enter(bytes: number, signal?: AbortSignal): Promise<void> {
    if (this.tryEnter(bytes)) return;
    const needed = Math.min(bytes, this.bytes);
    await new Promise<void>((resolve, reject) => {
      const place = { bytes: needed, enter: resolve };
      this.waiting.push(place);
      signal?.addEventListener(
        "abort",
        () => {
          const at = this.waiting.indexOf(place);
          if (at < 0) return;
          this.waiting.splice(at, 1);
          this.admit();
          reject(signal.reason as Error);
        },
        { once: true },
      );
    });
  }

  leave(bytes: number): void {
    this.taken -= Math.min(bytes, this.bytes);
    this.admit();
  }

  private admit(): void {
    while (this.waiting.length && this.waiting[0]!.bytes <= this.free) {
      const { bytes, enter } = this.waiting.shift()!;
      this.taken += bytes;
      enter();
    }
  }
}
