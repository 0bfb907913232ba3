import { readdir, rm } from "node:fs/promises";
import { dirname, join } from "node:path";
import { FlowProducer, Queue, QueueEvents } from "bullmq";
import type { Redis } from "ioredis";
import { RhizomeError } from "../../core/error";
import { complain, say } from "../arguments";
import type { BatchRun } from "../batch/report";
import { timeLeft } from "../batch/batchFiles";
import { isMember, type StackJob } from "../batch/job";
import { madeIn, readManifest, sumsText } from "../batch/manifest";
import { save } from "../merge";
import { removeParts } from "../../runtime/hosts/writeWhole";
import { engineOptions, QUEUE, queueAddress } from "./address";
import { checkQueue, watchQueue } from "./connect";
import { clearedAt } from "./cleared";
import { orderOf, type Order } from "./order";
import { putJobs, withIds, type KnownJob } from "./putJobs";
import { errorOf, readDone, type Done } from "./queuedJob";
import { Counts, summaryText } from "../batch/summary";

/** How often jobs of which nothing was heard are asked after, ms. */
const ASK_AFTER_MS = 10_000;
/** Where the sums of all results stand, in the format of `sha256sum`. */
const SUMS = "SHA256SUMS";

/**
 * Makes batches over a queue: puts in a job a stack, and reports until all are done.
 *
 * @returns what does a batch and says how many of its jobs failed
 * @throws RhizomeError `usage`, `queue-unreachable`
 */
export async function batchOverQueue(
  text: string,
  when: { due?: string | undefined; priority?: string | undefined },
): Promise<(jobs: StackJob[], run: BatchRun) => Promise<number>> {
  const address = queueAddress(text);
  const order = orderOf(when, Date.now());
  (await checkQueue(address)).forEach(say);
  return async (jobs, run) => {
    const options = engineOptions(address);
    const queue = new Queue(QUEUE, options);
    const flows = new FlowProducer(options);
    const events = new QueueEvents(QUEUE, options);
    const watched = watchQueue(address, say);
    // losing the queue is said by the one who watches it
    queue.on("error", () => undefined);
    flows.on("error", () => undefined);
    events.on("error", () => undefined);
    process.once("SIGINT", () => {
      say("The jobs stay in the queue. The same call goes on with them.");
      process.exit(130);
    });
    try {
      const batch = new Batch(queue, flows, watched.redis, await withIds(jobs), order, run);
      return await batch.untilDone(events);
    } finally {
      watched.end();
      await Promise.all([queue.close(), flows.close(), events.close()]);
    }
  };
}

/** What a worker gave back; an error where that cannot be read. */
function doneOrError(result: unknown): Done | RhizomeError {
  try {
    return readDone(result);
  } catch (e) {
    return RhizomeError.from(e);
  }
}

/** The jobs of one batch on their way. */
class Batch {
  private readonly open: Map<string, KnownJob>;
  private readonly counts = new Counts();
  private readonly putAt = Date.now();
  private settle: () => void = () => undefined;

  constructor(
    private readonly queue: Queue,
    private readonly flows: FlowProducer,
    private readonly redis: Redis,
    private readonly jobs: readonly KnownJob[],
    private readonly order: Order,
    private readonly run: BatchRun,
  ) {
    this.open = new Map(jobs.map((known) => [known.id, known]));
  }

  /** @returns how many failed */
  async untilDone(events: QueueEvents): Promise<number> {
    const began = performance.now();
    await events.waitUntilReady();
    const allDone = new Promise<void>((resolve) => (this.settle = resolve));
    const heard = ({ jobId }: { jobId: string }): void =>
      void this.ask(jobId).catch(() => undefined);
    events.on("completed", heard);
    events.on("failed", heard);
    await putJobs(this.queue, this.flows, this.jobs, this.order);
    if (!this.open.size) this.settle();
    const asking = this.askAgain(allDone);
    await allDone;
    await asking;
    const summary = this.counts.summary(
      this.jobs.length,
      performance.now() - began,
      this.order.due,
    );
    await this.run.log({ state: "summary", ...summary });
    if (this.run.show) say(summaryText(summary));
    try {
      await this.tidy();
    } catch (e) {
      complain(RhizomeError.from(e));
      return summary.failed + 1;
    }
    return summary.failed;
  }

  /** Asks after jobs of which nothing was heard; those that the queue has lost are put in again. */
  private async askAgain(allDone: Promise<void>): Promise<void> {
    let isOver = false;
    let wake: () => void = () => undefined;
    void allDone.then(() => {
      isOver = true;
      wake();
    });
    while (!isOver) {
      await new Promise<void>((resolve) => {
        wake = resolve;
        setTimeout(resolve, ASK_AFTER_MS);
      });
      // what cannot be asked now is asked again
      for (const id of [...this.open.keys()])
        if (!isOver) await this.ask(id).catch(() => undefined);
    }
  }

  /** Asks what became of a job. */
  private async ask(id: string): Promise<void> {
    const known = this.open.get(id);
    if (!known) return;
    const job = await this.queue.getJob(id);
    if (!this.open.has(id)) return;
    if (!job) return this.lost(known);
    if (job.finishedOn === undefined) return;
    // of what failed and will be tried again this is not asked
    const state = await job.getState();
    if (state !== "completed" && state !== "failed") return;
    const outcome =
      state === "completed"
        ? doneOrError(job.returnvalue)
        : errorOf(await this.reason(job.failedReason));
    if (!this.open.delete(id)) return;
    if (outcome instanceof RhizomeError) await this.failed(known, outcome);
    else await this.completed(known, outcome);
    this.tell();
  }

  /** Why a job was set aside: where one before it failed, that one's reason. */
  private async reason(reason: string): Promise<string> {
    const child = /^child .*:([^:]+) failed$/.exec(reason)?.[1];
    const failed = child === undefined ? undefined : await this.queue.getJob(child);
    return failed?.failedReason ?? reason;
  }

  private async completed({ job }: KnownJob, done: Done): Promise<void> {
    this.counts.add(done);
    const { worker, tookMs, bytesRead, at } = done;
    const bytesWritten = done.files.reduce((sum, { size }) => sum + size, 0);
    await this.run.log({
      state: "job",
      name: job.name,
      worker,
      tookMs,
      bytesRead,
      bytesWritten,
      doneAt: at,
    });
    for (const file of done.files) await this.run.report.made(job, file);
  }

  private async failed({ id, job }: KnownJob, error: RhizomeError): Promise<void> {
    this.counts.failed(error.code);
    const noted = await readManifest(job.between, id);
    for (const { path, name: wanted } of job.files)
      if (!noted?.files.some(({ name }) => name === wanted))
        await this.run.report.failed(path, error);
  }

  /** A job that is not in the queue any more was taken out by somebody, or the queue has lost it. */
  private async lost(known: KnownJob): Promise<void> {
    if ((await clearedAt(this.redis)) < this.putAt)
      return putJobs(this.queue, this.flows, [known], this.order);
    if (!this.open.delete(known.id)) return;
    const error = new RhizomeError(
      "cleared",
      "It was taken out of the queue.",
      "start the batch again",
    );
    await this.failed(known, error);
    this.tell();
  }

  /** Tells how far it is. */
  private tell(): void {
    if (!this.open.size) this.settle();
    if (!this.run.show) return;
    const { over } = this.counts;
    const left = this.open.size ? timeLeft(Date.now() - this.putAt, over, this.jobs.length) : "";
    say(`${over} of ${this.jobs.length}${left}`);
  }

  /** Writes the sums of the results, and removes what lay between frames and files. */
  private async tidy(): Promise<void> {
    const [first] = this.jobs;
    if (!first) return;
    const { between } = first.job;
    const members = this.jobs.flatMap(({ job }) => job.frames.filter(isMember));
    for (const { path } of members) {
      await rm(path, { force: true });
      await rm(path.replace(/\.exr$/, ".json"), { force: true });
    }
    await rm(join(between, "places"), { recursive: true, force: true });
    const out = dirname(between);
    await removeParts(this.jobs.flatMap(({ job }) => job.files.map((file) => file.path)));
    const there = await readdir(out, { recursive: true });
    const made = await madeIn(
      between,
      there.map((name) => name.replaceAll("\\", "/")),
    );
    if (made.length) await save(join(out, SUMS), [new TextEncoder().encode(sumsText(made))]);
  }
}
