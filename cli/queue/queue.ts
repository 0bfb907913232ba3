import { Queue } from "bullmq";
import type { Redis } from "ioredis";
import { counted } from "../../core/counted";
import { RhizomeError } from "../../core/error";
import { out, parse, say, usage } from "../arguments";
import { engineOptions, QUEUE, queueAddress } from "./address";
import { checkQueue, watchQueue } from "./connect";
import { noteCleared } from "./cleared";
import { errorOf, readQueued, reasonOf } from "./queuedJob";

/** How often it is asked whether work is still being done, ms. */
const ASK_MS = 500;
/** What is not over, by the names that the engine has for it. */
const WAITING = ["waiting", "prioritized", "delayed", "waiting-children"] as const;

/** What can be done with a queue. */
const DOINGS: Readonly<
  Record<string, (queue: Queue, asJson: boolean, redis: Redis) => Promise<void>>
> = {
  status,
  metrics: async (queue) => out(await metricsText(queue)),
  async pause(queue) {
    await queue.pause();
    out("Paused: what is at work is finished, nothing else is begun.");
  },
  async drain(queue) {
    await queue.pause();
    while (await queue.getActiveCount())
      await new Promise((resolve) => setTimeout(resolve, ASK_MS));
    out("Drained: nothing is at work, and nothing is begun.");
  },
  async resume(queue) {
    await queue.resume();
    out("Resumed: workers take jobs again.");
  },
  async retry(queue) {
    const aside = await queue.getFailed();
    for (const job of aside) {
      await job.updateData({ ...(job.data as object), begunAlone: 0 });
      await job.retry("failed", { resetAttemptsMade: true });
    }
    out(`${aside.length} jobs that were set aside are tried again.`);
  },
  async clear(queue, _, redis) {
    await noteCleared(redis);
    const counts = await countsOf(queue);
    await queue.drain(true);
    const parents = await queue.getWaitingChildren();
    await Promise.all(parents.map((job) => job.remove()));
    await queue.clean(0, 0, "failed");
    out(`${counts.waiting + counts.aside} jobs were taken out.`);
  },
};

/** `rhizome queue status|metrics|pause|drain|resume|retry|clear --queue URL` */
export async function queue(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    queue: { type: "string" },
    json: { type: "boolean" },
  });
  const [what = ""] = positionals;
  const doing = Object.hasOwn(DOINGS, what) ? DOINGS[what] : undefined;
  if (!doing || positionals.length !== 1 || values.queue === undefined)
    throw usage(`queue is called as "queue ${Object.keys(DOINGS).join("|")} --queue URL"`);
  const address = queueAddress(values.queue);
  const shortcomings = await checkQueue(address);
  const opened = new Queue(QUEUE, engineOptions(address));
  const watched = watchQueue(address, say);
  let lost: Error | undefined;
  opened.on("error", (e) => (lost = e));
  try {
    await doing(opened, Boolean(values.json), watched.redis);
    if (what === "status" && !values.json) shortcomings.forEach(out);
  } catch (e) {
    if (!lost) throw e;
    throw new RhizomeError(
      "queue-unreachable",
      `The queue at ${address.shown} was lost: ${lost.message}.`,
      "try it again",
    );
  } finally {
    watched.end();
    await opened.close();
  }
}

/** How many jobs are where. */
interface QueueCounts {
  waiting: number;
  atWork: number;
  done: number;
  aside: number;
}

async function countsOf(queue: Queue): Promise<QueueCounts> {
  const counts = await queue.getJobCounts(...WAITING, "active", "completed", "failed");
  return {
    waiting: WAITING.reduce((sum, state) => sum + (counts[state] ?? 0), 0),
    atWork: counts["active"] ?? 0,
    done: counts["completed"] ?? 0,
    aside: counts["failed"] ?? 0,
  };
}

async function status(queue: Queue, asJson: boolean): Promise<void> {
  const [counts, workers, isPaused, active, failed] = await Promise.all([
    countsOf(queue),
    queue.getWorkers(),
    queue.isPaused(),
    queue.getActive(),
    queue.getFailed(),
  ]);
  const atWork = active.map((job) => ({ name: job.name, ...progressOf(job.progress) }));
  const aside = failed.map((job) => ({
    name: job.name,
    job: idOf(job.data),
    reason: reasonOf(errorOf(job.failedReason)),
  }));
  const names = workers.map((worker) => nameOf(worker["rawname"] ?? worker["name"] ?? ""));
  if (asJson) {
    out(JSON.stringify({ ...counts, isPaused, workers: names, jobs: atWork, aside }, null, 2));
    return;
  }
  out(
    `${counts.waiting} waiting, ${counts.atWork} at work, ${counts.done} done, ${counts.aside} set aside${isPaused ? "; paused" : ""}`,
  );
  out(`${counted(names.length, "worker")}${names.length ? `: ${names.sort().join(", ")}` : ""}`);
  for (const { name, share, doing } of atWork)
    out(`at work\t${name}\t${Math.round(share * 100)} %\t${doing}`);
  for (const { name, reason } of aside) out(`set aside\t${name}\t${reason}`);
}

/** A worker's own name, of what its connection is called. */
const nameOf = (connection: string): string => connection.split(":w:")[1] ?? connection;

function progressOf(progress: unknown): { share: number; doing: string } {
  const { share, doing } = (progress ?? {}) as { share?: unknown; doing?: unknown };
  return {
    share: typeof share === "number" ? share : 0,
    doing: typeof doing === "string" ? doing : "",
  };
}

const idOf = (data: unknown): string => {
  try {
    return readQueued(data).id;
  } catch {
    return "";
  }
};

/** How many jobs are where, as Prometheus reads it (text format 0.0.4). */
async function metricsText(queue: Queue): Promise<string> {
  const [{ waiting, atWork, done, aside }, workers] = await Promise.all([
    countsOf(queue),
    queue.getWorkersCount(),
  ]);
  const states = { waiting, "at-work": atWork, done, "set-aside": aside };
  return [
    "# HELP rhizome_queue_jobs Jobs in the queue, by where they are",
    "# TYPE rhizome_queue_jobs gauge",
    ...Object.entries(states).map(([state, n]) => `rhizome_queue_jobs{state="${state}"} ${n}`),
    "# HELP rhizome_queue_workers Workers that are connected",
    "# TYPE rhizome_queue_workers gauge",
    `rhizome_queue_workers ${workers}`,
  ].join("\n");
}
