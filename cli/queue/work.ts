import { setMaxListeners } from "node:events";
import { hostname } from "node:os";
import { UnrecoverableError, WaitingError, Worker, type Job } from "bullmq";
import { RhizomeError } from "../../core/error";
import type { Pool } from "../../pipeline/pool";
import { stopped } from "../../runtime/stopped";
import { numberOf, openPool, out, parse, say, usage } from "../arguments";
import { readJob, type StackJob } from "../batch/job";
import { fileLine } from "../batch/report";
import { bytesRead, locateFrames, memoryOf, runJob } from "../batch/runJob";
import { engineOptions, QUEUE, queueAddress, type QueueAddress } from "./address";
import { watchQueue } from "./connect";
import { metricsPlace, serveMetrics, WorkerMetrics, type MetricsPlace } from "./metrics";
import { readDone, readQueued, reasonOf, TRIES, type Done } from "./queuedJob";
import { Room } from "./room";

/** After how long a job of a worker that ended goes to another one, s. */
const LOCK_SECONDS = 60;
/** Shares of that time: for which a lock holds when it is renewed, and at which lost ones are looked for. */
const HELD = 0.5;
const LOOKED_FOR = 0.2;
/** Below so many bytes no further job is asked for. */
const LEAST_ROOM = 600e6;
/** How often a job's progress is told, ms. */
const PROGRESS_MS = 2000;
const HOUR = 3_600_000;

/** How a worker works. */
interface WorkOptions {
  address: QueueAddress;
  lockSeconds: number;
  /** most jobs an hour */
  rate?: number;
  metrics?: MetricsPlace;
  name: string;
}

/** `rhizome work` */
export async function work(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    queue: { type: "string" },
    threads: { type: "string" },
    memory: { type: "string" },
    rate: { type: "string" },
    lock: { type: "string" },
    metrics: { type: "string" },
    name: { type: "string" },
  });
  if (positionals.length || values.queue === undefined) throw usage("work needs --queue URL");
  const rate = numberOf("rate", values.rate);
  const options: WorkOptions = {
    address: queueAddress(values.queue),
    lockSeconds: numberOf("lock", values.lock) ?? LOCK_SECONDS,
    ...(rate === undefined ? {} : { rate }),
    ...(values.metrics === undefined ? {} : { metrics: metricsPlace(values.metrics) }),
    name: values.name ?? `${hostname()}-${process.pid}`,
  };
  const pool = openPool(numberOf("threads", values.threads), numberOf("memory", values.memory));
  await new QueueWorker(pool, options).run();
}

/** Takes jobs from a queue, as many at once as their memory allows. */
class QueueWorker {
  private readonly room: Room;
  private readonly metrics: WorkerMetrics;
  private worker!: Worker;
  private inHand = 0;
  private resuming?: ReturnType<typeof setTimeout>;
  /** aborts what is at work when it is to be given back */
  private readonly givingBack = new AbortController();

  constructor(
    private readonly pool: Pool,
    private readonly options: WorkOptions,
  ) {
    this.room = new Room(pool.budget);
    this.metrics = new WorkerMetrics(this.room);
  }

  /** Works until it is told to stop. */
  async run(): Promise<void> {
    const { address, lockSeconds, metrics, name } = this.options;
    const server = metrics && (await serveMetrics(this.metrics, metrics));
    const ms = lockSeconds * 1000;
    this.worker = new Worker(QUEUE, (job, token, signal) => this.take(job, token!, signal!), {
      ...engineOptions(address),
      name,
      autorun: false,
      lockDuration: ms * HELD,
      stalledInterval: ms * LOOKED_FOR,
      // losing a worker in company is no fault of a job's own
      maxStalledCount: Number.MAX_SAFE_INTEGER,
    });
    // losing the queue is said by the one who watches it
    this.worker.on("error", () => undefined);
    this.worker.on("lockRenewalFailed", (jobs) => {
      for (const job of jobs) this.worker.cancelJob(job);
    });
    const watched = watchQueue(address, say);
    const over = this.untilStopped();
    say(`${name} takes jobs from ${address.shown}.`);
    await Promise.all([this.worker.run(), over]);
    watched.end();
    server?.close();
  }

  /** The first signal ends it once its jobs are done, the second gives them back. */
  private async untilStopped(): Promise<void> {
    await nextSignal();
    say("No more jobs are taken; those at work are finished. Once more gives them back.");
    clearTimeout(this.resuming);
    const closed = this.worker.close();
    void nextSignal().then(() => this.givingBack.abort(stopped()));
    await closed;
  }

  /** Begins with a job. Whether another one is asked for is settled before anything is waited for. */
  private async take(job: Job, token: string, lost: AbortSignal): Promise<Done> {
    this.inHand++;
    this.keepPace();
    const signal = AbortSignal.any([lost, this.givingBack.signal]);
    // each task of a merge listens to it
    setMaxListeners(0, signal);
    try {
      const { id, job: data, due } = readQueued(job.data);
      const stack = readJob(data);
      const result = await this.withRoom(job, stack, signal, async () => {
        const began = performance.now();
        await countAlone(job);
        const done = await this.make(job, id, stack, signal);
        return { ...done, tookMs: performance.now() - began, at: Date.now() };
      });
      this.metrics.done(result, due);
      if (stack.task === "deliver")
        for (const file of result.files) out(fileLine(stack, file, file.path));
      return result;
    } catch (e) {
      throw await this.failed(job, token, e, lost);
    } finally {
      this.inHand--;
      this.askForMore();
    }
  }

  /** Does something once the memory for a job is there. */
  private async withRoom<T>(
    job: Job,
    stack: StackJob,
    signal: AbortSignal,
    use: () => Promise<T>,
  ): Promise<T> {
    const known = stack.recipe.kind === "panorama" ? await canvasOf(job) : undefined;
    // what a worker was lost with goes alone, so that it takes no others along
    const bytes = wasLost(job) ? this.room.bytes : memoryOf(this.pool.budget, stack, known);
    const entered = this.room.tryEnter(bytes);
    this.askForMore();
    if (!entered) await this.room.enter(bytes, signal);
    try {
      signal.throwIfAborted();
      return await use();
    } finally {
      this.room.leave(bytes);
    }
  }

  private async make(
    job: Job,
    id: string,
    stack: StackJob,
    signal: AbortSignal,
  ): Promise<Omit<Done, "tookMs" | "at">> {
    const watch = { progress: progressOf(job), signal };
    const about = { worker: this.options.name, bytesRead: bytesRead(stack.frames) };
    if (stack.task === "locate")
      return { ...about, files: [], canvas: await locateFrames(this.pool, stack, watch) };
    return { ...about, files: await runJob(this.pool, stack, { ...watch, id }) };
  }

  /** What a job ends with that was not done: given back, or an error that counts as a try. */
  private async failed(
    job: Job,
    token: string,
    thrown: unknown,
    lost: AbortSignal,
  ): Promise<Error> {
    if (this.givingBack.signal.aborted && !lost.aborted) {
      await job.moveToWait(token).catch(() => undefined);
      this.metrics.givenBack();
      return new WaitingError();
    }
    if (thrown instanceof UnrecoverableError) {
      this.metrics.failed("worker-lost", "set-aside");
      say(`set aside: ${job.name}: ${thrown.message}`);
      return thrown;
    }
    const error = RhizomeError.from(thrown);
    const isLast = job.attemptsMade + 1 >= TRIES;
    this.metrics.failed(error.code, isLast ? "set-aside" : "failed");
    say(`${isLast ? "set aside" : "failed"}: ${job.name}: ${reasonOf(error)}`);
    return new Error(reasonOf(error));
  }

  /** Asks for one more job than there are while there is memory for one. */
  private askForMore(): void {
    const hasRoom = !this.room.isWaitedFor && this.room.free >= LEAST_ROOM;
    this.worker.concurrency = Math.max(1, this.inHand + (hasRoom ? 1 : 0));
  }

  /** Takes no other job before its time, where there is a rate. */
  private keepPace(): void {
    const { rate } = this.options;
    if (rate === undefined || this.worker.closing) return;
    void this.worker.pause(true);
    this.resuming = setTimeout(() => void this.worker.resume(), HOUR / rate);
  }
}

const wasLost = (job: Job): boolean => job.stalledCounter > 0;

/**
 * Counts how often a job is begun alone: workers may be lost for other reasons, but the one that ends
 * its worker whenever it is alone is set aside.
 *
 * @throws UnrecoverableError after three times
 */
async function countAlone(job: Job): Promise<void> {
  if (!wasLost(job)) return;
  const queued = readQueued(job.data);
  if (queued.begunAlone >= TRIES) throw new UnrecoverableError(reasonOf(workerLost()));
  await job.updateData({ ...queued, begunAlone: queued.begunAlone + 1 });
}

const workerLost = (): RhizomeError =>
  new RhizomeError(
    "worker-lost",
    `Its worker ended in the middle of it ${TRIES} times while it was alone.`,
    "see whether the machine has the memory for it",
  );

const nextSignal = (): Promise<void> =>
  new Promise((resolve) => {
    const end = (): void => {
      process.off("SIGTERM", end);
      process.off("SIGINT", end);
      resolve();
    };
    process.on("SIGTERM", end);
    process.on("SIGINT", end);
  });

/** The canvas of a panorama whose frames were located by a job before, px. */
async function canvasOf(job: Job): Promise<Done["canvas"]> {
  const children = Object.values(await job.getChildrenValues());
  return children.map((child) => readDone(child).canvas).find((canvas) => canvas !== undefined);
}

function progressOf(job: Job): (share: number, doing: string) => void {
  let told = 0;
  return (share, doing) => {
    const now = performance.now();
    if (now - told < PROGRESS_MS) return;
    told = now;
    // a queue that is lost is said by the one who watches it
    job.updateProgress({ share, doing }).catch(() => undefined);
  };
}
