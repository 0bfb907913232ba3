import type { TaskArgs, TaskName, TaskResult } from "./taskTable";
import type { Priority, RunOptions, Runtime, Started } from "./work";

/**
 * One piece of work on a runtime: it knows which of the runtime's tasks are its own, and waits for
 * those alone before memory they work on is freed.
 */
export class TaskScope<T> implements Runtime<T> {
  private readonly atWork = new Set<Promise<void>>();

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

  allocate(bytes: number): number {
    return this.runtime.allocate(bytes);
  }
  free(at: number): void {
    this.runtime.free(at);
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
}
