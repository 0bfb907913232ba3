import { RhizomeError } from "../core/error";
import type { RunOptions, Work } from "../core/steps/work";
import { Arena } from "./arena";
import type { Call, Reply, Start } from "./worker/serve";
import type { TaskArgs, TaskName, TaskResult } from "./worker/tasks";

/** What a host provides: a thread that takes messages. */
export interface WorkerLike {
  post(message: Start | Call): void;
  onReply(listener: (reply: Reply) => void): void;
  onLost(listener: (why: string) => void): void;
  close(): void;
}
export interface Host {
  /** threads worth starting */
  threads: number;
  /** one memory for all threads; without it there is one thread with a memory of its own */
  memory?: WebAssembly.Memory;
  spawn(): WorkerLike;
}

interface Job {
  task: TaskName;
  args: unknown;
  scratch: number;
  tries: number;
  urgent: boolean;
  done: (r: unknown) => void;
  failed: (e: unknown) => void;
  signal?: AbortSignal;
}
interface Seat {
  worker: WorkerLike;
  job?: Job;
  id: number;
  scratch?: number;
}

/** How long after an urgent task the next one is expected, ms. */
const ATTENTION_MS = 1500;
const FIRST = 1 << 17;
const LAST = 0xffff0000;

/**
 * Threads, their common memory, and the queue before them. A thread that dies is replaced and its
 * task done again once; a stopped task is dropped from the queue, or its answer is, when it comes.
 */
export class Pool implements Work {
  readonly arena: Arena;
  private seats: Seat[] = [];
  private waiting: Job[] = [];
  private nextId = 1;
  private lastUrgent = -Infinity;
  private later?: ReturnType<typeof setTimeout>;
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

  /** Takes so many bytes of the threads' memory. @throws RhizomeError `memory-full` */
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

  run<K extends TaskName>(
    task: K,
    args: TaskArgs<K>,
    options: RunOptions = {},
  ): Promise<TaskResult<K>> {
    return new Promise((resolve, reject) => {
      if (options.signal?.aborted || this.closed) return reject(stopped());
      const job: Job = {
        task,
        args,
        scratch: options.scratch ?? 1 << 16,
        tries: 0,
        urgent: options.urgent ?? false,
        done: resolve as (r: unknown) => void,
        failed: reject,
        ...(options.signal ? { signal: options.signal } : {}),
      };
      options.signal?.addEventListener(
        "abort",
        () => {
          this.waiting = this.waiting.filter((j) => j !== job);
          reject(stopped());
        },
        { once: true },
      );
      if (job.urgent) {
        this.waiting.unshift(job);
        this.lastUrgent = performance.now();
      } else this.waiting.push(job);
      this.next();
    });
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
    to.set(
      memory
        ? new Uint8Array(memory.buffer, ptr, bytes)
        : await this.run("read", { ptr, bytes }, { urgent: true }),
    );
    return to;
  }

  /** Waits until no thread works, so that memory can be given back safely after a stop. */
  async idle(): Promise<void> {
    while (this.seats.some((s) => s.job)) await new Promise((r) => setTimeout(r, 5));
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.later);
    for (const s of this.seats) s.worker.close();
  }

  private seat(): Seat {
    const seat: Seat = { worker: this.host.spawn(), id: 0 };
    seat.worker.onReply((reply) => this.answered(seat, reply));
    seat.worker.onLost((why) => this.lost(seat, why));
    seat.worker.post({ kind: "start", ...(this.host.memory ? { memory: this.host.memory } : {}) });
    return seat;
  }

  private next(): void {
    for (const seat of this.seats) {
      if (seat.job) continue;
      if (this.heldFree()) return;
      const job = this.waiting.shift();
      if (!job) return;
      const scratch = this.arena.allocate(job.scratch + 4096);
      if (scratch === undefined) {
        // what others work with comes back
        if (this.seats.some((s) => s.job)) {
          this.waiting.unshift(job);
          return;
        }
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
      seat.job = job;
      seat.id = this.nextId++;
      seat.scratch = scratch;
      seat.worker.post({
        kind: "call",
        id: seat.id,
        task: job.task,
        args: job.args as never,
        scratch: { ptr: scratch, bytes: job.scratch + 4096 },
      });
    }
  }

  /**
   * While somebody is at work, one of several threads is kept for what is urgent: a decoder at work
   * cannot be set aside.
   */
  private heldFree(): boolean {
    const left = ATTENTION_MS - (performance.now() - this.lastUrgent);
    if (
      left <= 0 ||
      !this.waiting.length ||
      this.waiting[0]!.urgent ||
      this.seats.filter((s) => s.job && !s.job.urgent).length < this.seats.length - 1 ||
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
    const job = seat.job;
    if (!job || reply.id !== seat.id) return;
    this.leave(seat);
    if (reply.ok) job.done(reply.result);
    else job.failed(new RhizomeError(reply.error.code, reply.error.message, reply.error.remedy));
    this.next();
  }

  private leave(seat: Seat): void {
    if (seat.scratch !== undefined) this.arena.free(seat.scratch);
    delete seat.job;
    delete seat.scratch;
  }

  private lost(seat: Seat, why: string): void {
    if (this.closed) return;
    const job = seat.job;
    this.leave(seat);
    seat.worker.close();
    this.seats = this.seats.map((s) => (s === seat ? this.seat() : s));
    if (job && job.tries++ < 1 && !job.signal?.aborted) this.waiting.unshift(job);
    else
      job?.failed(
        new RhizomeError(
          "worker-lost",
          `A worker stopped unexpectedly (${why}).`,
          "try again; if it happens again, a file may be damaged",
        ),
      );
    this.next();
  }
}

/** The error of work that was stopped by whoever asked for it. */
export const stopped = (): RhizomeError => new RhizomeError("stopped", "The work was stopped.", "");
