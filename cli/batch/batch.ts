import { mkdtemp, rm, stat } from "node:fs/promises";
import { hostname, tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { RhizomeError } from "../../core/error";
import type { Pool } from "../../pipeline/pool";
import { complain, openPool, parse, say, usage } from "../arguments";
import { findStacks } from "../group";
import { lookOf } from "../look";
import { listPictures, readFrames } from "../readFrames";
import { batchLog, deliveriesOf, timeLeft } from "./batchFiles";
import type { StackJob } from "./job";
import { planJobs } from "./planJobs";
import { reportTo, type BatchRun, type Report } from "./report";
import { bytesRead, runJob } from "./runJob";
import { Counts, summaryText } from "./summary";

/** Folder in the one of the results for what machines share of a batch. */
const SHARED = ".rhizome";

/** `rhizome batch` */
export async function batch(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    out: { type: "string" },
    shard: { type: "string" },
    resume: { type: "boolean" },
    gap: { type: "string" },
    look: { type: "string" },
    amount: { type: "string" },
    delivery: { type: "string", multiple: true },
    log: { type: "string" },
    progress: { type: "boolean" },
    queue: { type: "string" },
    due: { type: "string" },
    priority: { type: "string" },
  });
  const [folder] = positionals;
  if (!folder || positionals.length > 1 || !values.out)
    throw usage("batch needs one folder and --out DIR");
  const isOfShard = shardOf(values.shard);
  const overQueue = values.queue === undefined ? undefined : await queueOf(values.queue, values);
  const withLook = await lookOf(values);
  const deliveries = await deliveriesOf(values.delivery ?? []);
  const log = batchLog(values.log);
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, await listPictures(folder), true);
  failed.forEach(complain);
  const between = overQueue
    ? resolve(values.out, SHARED)
    : await mkdtemp(join(tmpdir(), "rhizome-batch-"));
  const stacks = await findStacks(pool, frames, values.gap);
  const plan = { folder, out: values.out, between, deliveries, withLook };
  const planned = (await planJobs(stacks, frames, plan)).filter((_, i) => isOfShard(i));
  const report = reportTo(log, values.out);
  const jobs: StackJob[] = [];
  for (const job of planned) {
    const due = values.resume ? await missing(job, report) : job;
    if (due.files.length) jobs.push(due);
  }
  const run = { report, show: Boolean(values.progress) || process.stderr.isTTY, log };
  // others merge; what this process is for now is to report
  if (overQueue) pool.close();
  try {
    const broken = overQueue ? await overQueue(jobs, run) : await runHere(pool, jobs, run);
    const notMade = failed.length + broken;
    if (notMade)
      throw new RhizomeError("some-failed", `${notMade} files or stacks failed.`, "see above");
  } finally {
    if (!overQueue) await rm(between, { recursive: true, force: true });
  }
}

/** Which of all stacks are this machine's, by --shard I/N. */
function shardOf(text = "1/1"): (index: number) => boolean {
  const shard = /^(\d+)\/(\d+)$/.exec(text);
  const [own, all] = [Number(shard?.[1]), Number(shard?.[2])];
  if (!(own >= 1 && own <= all)) throw usage("--shard is written I/N, from 1/N to N/N");
  return (index) => index % all === own - 1;
}

/** Makes batches over a queue; only then is anything of it loaded. */
async function queueOf(
  address: string,
  values: { due?: string | undefined; priority?: string | undefined },
): Promise<(jobs: StackJob[], how: BatchRun) => Promise<number>> {
  const { batchOverQueue } = await import("../queue/batchOverQueue");
  return batchOverQueue(address, values);
}

/** A job with those of its files that are not there; the others are reported as kept. */
async function missing(job: StackJob, report: Report): Promise<StackJob> {
  const files: StackJob["files"] = [];
  for (const file of job.files) {
    const found = await stat(file.path).catch(() => undefined);
    if (!found) files.push(file);
    else await report.made(job, { ...KEPT, name: "", path: file.path, size: found.size });
  }
  return { ...job, files };
}

/** What is known of a file that was there before. */
const KEPT = { kept: true, sha256: "", width: 0, height: 0, timingsMs: {} };

/** Does all jobs in this process, one after the other. @returns how many failed */
async function runHere(
  pool: Pool,
  jobs: readonly StackJob[],
  { report, show, log }: BatchRun,
): Promise<number> {
  const began = performance.now();
  const counts = new Counts();
  for (const [index, job] of jobs.entries()) {
    const left = timeLeft(performance.now() - began, index, jobs.length);
    if (show) say(`${index + 1} of ${jobs.length}${left}`);
    const done = new Set<string>();
    try {
      const files = await runJob(pool, job, {
        progress: () => undefined,
        async made(file) {
          done.add(file.path);
          await report.made(job, file);
        },
      });
      const bytes = bytesRead(job.frames);
      counts.add({ files, worker: hostname(), bytesRead: bytes, at: Date.now() });
    } catch (e) {
      const error = RhizomeError.from(e);
      counts.failed(error.code);
      for (const { path } of job.files) if (!done.has(path)) await report.failed(path, error);
    }
  }
  const summary = counts.summary(jobs.length, performance.now() - began, undefined);
  await log({ state: "summary", ...summary });
  if (show) say(summaryText(summary));
  return summary.failed;
}
