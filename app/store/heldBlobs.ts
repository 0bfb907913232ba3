/** The pictures of the board that was read last, by keys of what they show. */
let held: ReadonlyMap<string, Blob> = new Map();

/** One reading of a board's pictures. */
export interface BlobReading {
  /** The blob that was read before for a key, if it was; it is held on. */
  known(key: string): Blob | undefined;
  /** Holds a blob for a key. @returns the one that was read before, where it shows the same */
  hold(key: string, blob: Blob): Blob;
  /** Lets go what was not asked for in this reading. */
  end(): void;
}

/**
 * Begins to read a board's pictures. A database hands out another blob each time that it is asked,
 * and a picture is decoded and drawn anew from another blob: what shows the same stays the same blob.
 */
export function beginBlobReading(): BlobReading {
  const before = held;
  const now = new Map<string, Blob>();
  const known = (key: string): Blob | undefined => {
    const blob = before.get(key);
    if (blob) now.set(key, blob);
    return blob;
  };
  return {
    known,
    hold(key, blob) {
      const same = known(key);
      if (same?.size === blob.size) return same;
      now.set(key, blob);
      return blob;
    },
    end() {
      held = now;
    },
  };
}
