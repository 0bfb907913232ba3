/** Something of the threads' memory that its owner releases, once; `using` does it by itself. */
export interface Lease {
  release(): void;
  [Symbol.dispose](): void;
}

let forgotten: FinalizationRegistry<string> | undefined;

/**
 * For development: from now on, a lease that is garbage before it was released is told of, with the
 * place in the code where it was taken.
 */
export function traceLeases(tell: (takenAt: string) => void): void {
  forgotten = new FinalizationRegistry(tell);
}

/** A lease that frees something when it is released for the first time. */
export function leaseOf(free: () => void): Lease {
  const registry = forgotten;
  // lives as long as `release` does, wherever that is copied to
  const token = registry && {};
  if (token) registry.register(token, new Error("A lease was taken here").stack ?? "", token);
  let held = true;
  const release = (): void => {
    if (!held) return;
    held = false;
    if (token) registry.unregister(token);
    free();
  };
  return { release, [Symbol.dispose]: release };
}
