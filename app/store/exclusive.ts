declare const alone: unique symbol;

/** Proof that its holder alone writes, over all tabs; only `exclusively` gives it out. */
export interface Writer {
  readonly [alone]: true;
}

const WRITER = {} as Writer;
const LOCK = "rhizome-write";
let last: Promise<unknown> = Promise.resolve();

/**
 * Work that reads, decides and writes while no other tab, and nothing else in this one, writes: each
 * change finds what the one before it wrote, and none is lost.
 */
export function exclusively<T>(work: (writer: Writer) => Promise<T>): Promise<T> {
  const locked = async (): Promise<T> =>
    navigator.locks
      ? ((await navigator.locks.request(LOCK, () => work(WRITER))) as T)
      : work(WRITER);
  const mine = last.then(locked, locked);
  last = mine;
  return mine;
}
