import { RhizomeError } from "../core/error";
import { Arena } from "./arena";
import type { MemoryTasks } from "./memoryTasks";
import type { Reply } from "./serve";
import { stopped } from "./stopped";
import type { TaskArgs, TaskName, TaskResult } from "./taskTable";
import { PRIORITIES, type RunOptions, type Runtime, type Started } from "./work";
import type { Host, WorkerLike } from "./worker";

interface Job {
  task: string;
  args: unknown;
  options: RunOptions;
  tries: number;
  done: (result: unknown) => void;
  failed: (error: unknown) => void;
  /** nothing works on it any more */
  ended: () => void;
}
interface Seat {
  worker: WorkerLike;
  job?: Job;
  id: number;
  scratch?: number;
  /** the worker has answered at least once, so it is up */
  up: boolean;
  /** the worker has begun with its job */
  begun: boolean;
  /** how long its job has been with it, by the pool's own clock, ms */
  atWorkMs: number;
}

/** Place of a job among what waits, by its priority. */
const rank = ({ options }: Job): number => PRIORITIES.indexOf(options.priority ?? "asked");
const DRAWING = PRIORITIES.indexOf("screen");

/** How long after a picture was drawn the next one is expected, ms. */
const ATTENTION_MS = 1500;
/** How long a worker that was stopped may go on with what it is at before it is ended, ms. */
const STOP_GRACE_MS = 120;
/** How often busy workers are looked after, ms. A machine that slept counts as one time. */
const WATCH_MS = 500;
/** How long a task may take whose size nobody gave, ms. */
const ALLOWANCE_MS = 15 * 60000;
/** How long a worker that is up may take to begin with a task, and one that is starting, ms. */
const BEGIN_MS = 15000;
const START_MS = 90000;
const SCRATCH_BYTES = 1 << 16;
const SCRATCH_ROOM = 4096;
const FIRST = 1 << 17;
const LAST = 0xffff0000;

/**
 * Threads, their common memory, and the queue before them. A thread that dies or does not answer is
 * replaced; its task is done again once if it was not the cause. A stopped task leaves the queue,
 * and a thread that goes on with one is ended.
 */
export class Pool<T extends MemoryTasks = MemoryTasks> implements Runtime<T> {
  readonly arena: Arena;
  private seats: Seat[] = [];
  private waiting: Job[] = [];
  private nextId = 1;
  private lastDrawing = -Infinity;
  private later?: ReturnType<typeof setTimeout>;
  private watch?: ReturnType<typeof setInterval>;
  private closed = false;

  constructor(
    private readonly host: Host,
    /** bytes */
    readonly budget = 2 ** 31,
  ) {
    this.arena = new Arena(FIRST, Math.min(LAST, FIRST + budget * 1.5));
    const n = host.memory ? Math.max(1, host.threads) : 1;
    for (let i = 0; i < n; i++) this.seats.push(this.seat());
  }

  get threads(): number {
    return this.seats.length;
  }

  /** Allocates so many bytes of the threads' memory. @throws RhizomeError `memory-full` */
  allocate(bytes: number): number {
    const at = this.arena.allocate(bytes);
    if (at === undefined)
      throw new RhizomeError(
        "memory-full",
        "The pictures at work do not fit in the memory allowed.",
        "close other stacks, or allow more memory",
      );
    return at;
  }

  free(at: number): void {
    this.arena.free(at);
  }

  run<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options: RunOptions = {},
  ): Promise<TaskResult<T, K>> {
    return this.start(task, args, options).result;
  }

  /** Asks for a task. Its result may be refused by a stop while a thread still works on it. */
  start<K extends TaskName<T>>(
    task: K,
    args: TaskArgs<T, K>,
    options: RunOptions = {},
  ): Started<TaskResult<T, K>> {
    if (options.signal?.aborted || this.closed)
      return { result: Promise.reject(stopped()), ended: Promise.resolve() };
    let ended = (): void => undefined;
    const over = new Promise<void>((resolve) => {
      ended = resolve;
    });
    const result = new Promise<TaskResult<T, K>>((resolve, reject) => {
      const { signal } = options;
      const stop = (): void => {
        this.stop(job);
        reject(stopped());
      };
      const job: Job = {
        task,
        args,
        options,
        tries: 0,
        done: resolve as (result: unknown) => void,
        failed: reject,
        ended: () => {
          signal?.removeEventListener("abort", stop);
          ended();
        },
      };
      signal?.addEventListener("abort", stop, { once: true });
      if (rank(job) === DRAWING) this.lastDrawing = performance.now();
      this.queue(job);
      this.next();
    });
    return { result, ended: over };
  }

  /**
   * A copy of what lies at an address.
   *
   * @param into  where it goes, if it is as long: then nothing is made anew
   */
  async read(
    ptr: number,
    bytes: number,
    into?: Uint8Array<ArrayBuffer>,
  ): Promise<Uint8Array<ArrayBuffer>> {
    const { memory } = this.host;
    const to = into?.length === bytes ? into : new Uint8Array(bytes);
    if (memory) to.set(new Uint8Array(memory.buffer, ptr, bytes));
    else {
      const asked = { ptr, bytes } as TaskArgs<T, TaskName<T>>;
      to.set((await this.run("read" as TaskName<T>, asked, { priority: "screen" })) as Uint8Array);
    }
    return to;
  }

  /** Waits until no thread works. */
  async idle(): Promise<void> {
    while (this.seats.some((s) => s.job)) await new Promise((r) => setTimeout(r, 5));
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.later);
    clearInterval(this.watch);
    for (const s of this.seats) void s.worker.close();
  }

  private seat(): Seat {
    const seat: Seat = {
      worker: this.host.spawn(),
      id: 0,
      up: false,
      begun: false,
      atWorkMs: 0,
    };
    seat.worker.onReply((reply) => this.answered(seat, reply));
    seat.worker.onLost((why) => this.lost(seat, why));
    seat.worker.post({ kind: "start", ...(this.host.memory ? { memory: this.host.memory } : {}) });
    return seat;
  }

  /** Puts a job behind those of its priority; the picture that is drawn last before all others. */
  private queue(job: Job): void {
    const place = this.waiting.findIndex((other) => rank(other) > rank(job));
    if (rank(job) === DRAWING) this.waiting.unshift(job);
    else if (place < 0) this.waiting.push(job);
    else this.waiting.splice(place, 0, job);
  }

  private next(): void {
    for (const seat of this.seats) {
      if (seat.job) continue;
      if (this.keptFree()) return;
      const job = this.waiting.shift();
      if (!job) return;
      const bytes = (job.options.scratch ?? SCRATCH_BYTES) + SCRATCH_ROOM;
      const scratch = this.arena.allocate(bytes);
      if (scratch === undefined) {
        // what others work with comes back
        if (this.seats.some((s) => s.job)) {
          this.waiting.unshift(job);
          return;
        }
        job.ended();
        job.failed(
          new RhizomeError(
            "memory-full",
            "There is no memory left for this step.",
            "close other stacks, or allow more memory",
          ),
        );
        this.next();
        return;
      }
      this.give(seat, job, { ptr: scratch, bytes });
    }
  }

  private give(seat: Seat, job: Job, scratch: { ptr: number; bytes: number }): void {
    seat.job = job;
    seat.id = this.nextId++;
    seat.scratch = scratch.ptr;
    seat.begun = false;
    seat.atWorkMs = 0;
    this.watch ??= this.watching();
    try {
      seat.worker.post({
        kind: "call",
        id: seat.id,
        task: job.task,
        args: job.args as never,
        scratch,
      });
    } catch (e) {
      // what cannot be sent is no fault of the worker
      this.leave(seat);
      job.failed(e);
    }
  }

  /**
   * While somebody is at work, one of several threads is kept for drawing: a decoder at work cannot
   * be set aside.
   */
  private keptFree(): boolean {
    const left = ATTENTION_MS - (performance.now() - this.lastDrawing);
    if (
      left <= 0 ||
      !this.waiting.length ||
      rank(this.waiting[0]!) === DRAWING ||
      this.seats.filter((s) => s.job && rank(s.job) !== DRAWING).length < this.seats.length - 1 ||
      this.seats.length < 2
    )
      return false;
    this.later ??= setTimeout(() => {
      delete this.later;
      this.next();
    }, left);
    return true;
  }

  private answered(seat: Seat, reply: Reply): void {
    seat.up = true;
    const { job } = seat;
    if (!job || reply.id !== seat.id) return;
    if ("begun" in reply) {
      seat.begun = true;
      return;
    }
    this.leave(seat);
    if (reply.ok) job.done(reply.result);
    else job.failed(new RhizomeError(reply.error.code, reply.error.message, reply.error.remedy));
    this.next();
  }

  /** The seat is free again, and so is what its job worked with. */
  private leave(seat: Seat): void {
    if (seat.scratch !== undefined) this.arena.free(seat.scratch);
    seat.job?.ended();
    delete seat.job;
    delete seat.scratch;
    if (this.watch && !this.seats.some((s) => s.job)) {
      clearInterval(this.watch);
      delete this.watch;
    }
  }

  private lost(seat: Seat, why: string): void {
    if (this.closed || !this.seats.includes(seat)) return;
    const { job } = seat;
    const again = job !== undefined && job.tries++ < 1;
    this.replace(seat, again);
    if (job && !again)
      job.failed(
        new RhizomeError(
          "worker-lost",
          `${subjectOf(job)} ended a worker unexpectedly (${why}).`,
          "try again; if it happens again, a file may be damaged",
        ),
      );
    this.next();
  }

  /**
   * Ends a worker and starts another in its place. Its job ends when the worker has; or, `again`,
   * goes back to the head of the queue.
   */
  private replace(seat: Seat, again = false): void {
    const { job, scratch } = seat;
    this.seats = this.seats.map((s) => (s === seat ? this.seat() : s));
    void seat.worker.close().then(() => {
      if (scratch !== undefined) this.arena.free(scratch);
      if (job && again && !job.options.signal?.aborted) this.waiting.unshift(job);
      else job?.ended();
      this.next();
    });
  }

  /** Takes a job from the queue, or ends the worker that goes on with it. */
  private stop(job: Job): void {
    if (this.waiting.includes(job)) {
      this.waiting = this.waiting.filter((j) => j !== job);
      job.ended();
      return;
    }
    // a thread with a memory of its own holds all that there is
    if (!this.host.memory) return;
    const seat = this.seats.find((s) => s.job === job);
    if (!seat) return;
    setTimeout(() => {
      if (this.closed || seat.job !== job || !this.seats.includes(seat)) return;
      this.replace(seat);
      this.next();
    }, STOP_GRACE_MS);
  }

  private watching(): ReturnType<typeof setInterval> {
    const timer = setInterval(() => this.lookAfter(), WATCH_MS);
    // nothing is kept alive by being watched
    (timer as { unref?: () => void }).unref?.();
    return timer;
  }

  /** Replaces workers that have not begun in time, and those whose task takes too long. */
  private lookAfter(): void {
    for (const seat of [...this.seats]) {
      const { job } = seat;
      if (!job) continue;
      seat.atWorkMs += WATCH_MS;
      if (!seat.begun && seat.atWorkMs > (seat.up ? BEGIN_MS : START_MS)) {
        this.lost(seat, "it did not answer");
        continue;
      }
      const { allowanceMs = ALLOWANCE_MS } = job.options;
      if (seat.atWorkMs <= allowanceMs) continue;
      this.replace(seat);
      job.failed(
        new RhizomeError(
          "too-slow",
          `${subjectOf(job)} took longer than ${Math.round(allowanceMs / 1000)} s and was given up.`,
          "the file may be damaged: open it in another program, or leave it out",
        ),
      );
    }
    this.next();
  }
}

/** What an error names: the file that was being read, or else the step. */
const subjectOf = (job: Job): string => job.options.subject ?? `The step "${job.task}"`;
