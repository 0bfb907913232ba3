import { stopped } from "./stopped";
import type { TaskArgs, TaskName, TaskResult } from "./taskTable";
import type { Priority, RunOptions, Runtime, Started } from "./work";

/**
 * One piece of work on a runtime, for `await using`: it knows which tasks and which memory are its
 * own. At its end, after success, failure and stop alike, it waits for those tasks alone and frees
 * what it was not told to keep. Scopes nest: what an inner one keeps is the outer one's.
 */
export class TaskScope<T> implements Runtime<T>, AsyncDisposable {
  private readonly atWork = new Set<Promise<void>>();
  private readonly addresses = new Set<number>();
  private ending = false;

  /**
   * A scope over a runtime.
   *
   * @param priority  of tasks that have none of their own
   */
  constructor(
    private readonly runtime: Runtime<T>,
    private readonly priority?: Priority,
  ) {}

  get threads(): number {
    return this.runtime.threads;
  }
  get budget(): number {
    return this.runtime.budget;
  }

  /**
   * Allocates so many bytes, freed at the scope's end at the latest.
   *
   * @throws RhizomeError `memory-full`, or `stopped` when the scope has ended
   */
  allocate(bytes: number): number {
    // what goes on after a failure elsewhere takes nothing any more
    if (this.ending) throw stopped();
    const at = this.runtime.allocate(bytes);
    this.addresses.add(at);
    return at;
  }
  free(at: number): void {
    this.addresses.delete(at);
    this.runtime.free(at);
  }
  /** Leaves memory to whoever asked for this piece of work: it is not freed at the scope's end. */
  keep(...addresses: readonly (number | undefined)[]): void {
    for (const at of addresses) if (at !== undefined) this.addresses.delete(at);
  }

  read(
    ptr: number,
    bytes: number,
    into?: Uint8Array<ArrayBuffer>,
  ): Promise<Uint8Array<ArrayBuffer>> {
    return this.runtime.read(ptr, bytes, into);
  }

  start<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options: RunOptions = {},
  ): Started<TaskResult<T, K>> {
    if (this.ending) return { result: Promise.reject(stopped()), ended: Promise.resolve() };
    const priority = options.priority ?? this.priority;
    const started = this.runtime.start(task, args, { ...options, ...(priority && { priority }) });
    this.atWork.add(started.ended);
    void started.ended.then(() => this.atWork.delete(started.ended));
    return started;
  }

  run<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options: RunOptions = {},
  ): Promise<TaskResult<T, K>> {
    return this.start(task, args, options).result;
  }

  async idle(): Promise<void> {
    while (this.atWork.size) await Promise.all(this.atWork);
  }

  async [Symbol.asyncDispose](): Promise<void> {
    this.ending = true;
    await this.idle();
    for (const at of [...this.addresses]) this.free(at);
  }
}
