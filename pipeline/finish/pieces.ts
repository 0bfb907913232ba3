import type { Lease } from "../../runtime/lease";

/** Something that a finish is made of, in the workers' memory or only a value. */
export interface Piece extends Lease {
  value: unknown;
}

/** Where the pieces of a finish are made, and perhaps kept for the next one. */
export interface Pieces {
  /** the piece of a key, made if it is not there; it stays with whoever keeps the pieces */
  get(key: string, make: () => Promise<Piece>): Promise<Piece>;
}

/** Pieces of one run, all freed at its end. */
export class OwnPieces implements Pieces {
  private readonly made = new Map<string, Promise<Piece>>();

  get(key: string, make: () => Promise<Piece>): Promise<Piece> {
    const piece = this.made.get(key) ?? make();
    this.made.set(key, piece);
    return piece;
  }

  async release(): Promise<void> {
    for (const made of await Promise.allSettled(this.made.values()))
      if (made.status === "fulfilled") made.value.release();
    this.made.clear();
  }
}
