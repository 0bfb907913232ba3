import type { MemoryTasks } from "./memoryTasks";
import type { TaskArgs, TaskName, TaskResult } from "./taskTable";

/** Called with the share done of all work (0..1), and what is being done. */
export type Progress = (share: number, doing: string) => void;
export interface Watch {
  progress: Progress;
  signal?: AbortSignal;
}

/** The same watch over a part of the work, from one share of it to another. */
export const spanOf = ({ progress, signal }: Watch, from: number, to: number): Watch => ({
  progress: (share, doing) => progress(from + (to - from) * share, doing),
  ...(signal ? { signal } : {}),
});

/**
 * What goes first where tasks wait: a picture that is being drawn, what the opened stack needs, what
 * was asked for by name, what runs by itself.
 */
export const PRIORITIES = ["screen", "opened", "asked", "background"] as const;
export type Priority = (typeof PRIORITIES)[number];

export interface RunOptions {
  /** bytes of scratch the task needs */
  scratch?: number;
  /** "asked" unless it is said */
  priority?: Priority;
  /** how long it may take before it is given up, ms */
  allowanceMs?: number;
  /** what an error names if it is given up: a file, most often */
  subject?: string;
  signal?: AbortSignal;
}

/** A task that was asked for. */
export interface Started<R> {
  result: Promise<R>;
  /** no thread works on it any more, also where its result was refused by a stop; never fails */
  ended: Promise<void>;
}

/** Threads over one memory that is handed out by address, and what they can be asked for. */
export interface Runtime<T> {
  readonly threads: number;
  /** bytes that everything together may take */
  readonly budget: number;
  /** @throws RhizomeError `memory-full` */
  allocate(bytes: number): number;
  free(at: number): void;
  run<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options?: RunOptions,
  ): Promise<TaskResult<T, K>>;
  start<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options?: RunOptions,
  ): Started<TaskResult<T, K>>;
  /** A copy of what lies at an address; `into`, where it goes, if it is as long. */
  read(
    ptr: number,
    bytes: number,
    into?: Uint8Array<ArrayBuffer>,
  ): Promise<Uint8Array<ArrayBuffer>>;
  /** Waits until no task that was asked for here works any more, stopped ones included. */
  idle(): Promise<void>;
}

/** Rows cut into about `parts` strips of whole sixteens, or of another unit. */
export const rowsOf = (height: number, parts: number, unit = 16): [number, number][] => {
  const step = Math.max(unit, Math.ceil(height / parts / unit) * unit);
  return Array.from({ length: Math.ceil(height / step) }, (_, i) => [
    i * step,
    Math.min(height, (i + 1) * step),
  ]);
};

/** Does something for all rows of a picture, in some more strips than there are threads. */
export const inStrips = (
  work: Pick<Runtime<unknown>, "threads">,
  height: number,
  run: (y0: number, y1: number) => Promise<unknown>,
): Promise<unknown> => Promise.all(rowsOf(height, work.threads * 4).map(([y0, y1]) => run(y0, y1)));

/** Zeroes memory on all threads. */
export const cleared = (
  work: Runtime<MemoryTasks>,
  ptr: number,
  bytes: number,
  on: RunOptions,
): Promise<unknown> =>
  Promise.all(
    rowsOf(bytes, work.threads).map(([a, b]) =>
      work.run("clear", { ptr: ptr + a, bytes: b - a }, on),
    ),
  );
