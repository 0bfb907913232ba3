// What one and two workers of one thread each do in the same time, what the queue costs a job, how
// many jobs its server can hand out, and what a model makes of it for up to 200 workers:
// node build/node/benchStudioThroughput.js [BRACKETS] [FOLDER]
// FOLDER holds large brackets, of which the model's larger job is made.
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Queue, Worker } from "bullmq";
import { OwnQueue, Running } from "../../tests/cli/redis";
import { writeSmallBrackets } from "../../tests/files/smallBrackets";
import { SlowStorage } from "./slowStorage";
import { simulateStudio, type JobCost } from "./model";

const [count = "60", largeFolder] = process.argv.slice(2);
const dir = mkdtempSync(join(tmpdir(), "rhizome-studio-"));
const frames = join(dir, "frames");
await writeSmallBrackets(frames, Number(count));
const queue = new OwnQueue();
await queue.start();
const say = (text: string): void => console.log(text);

interface Logged {
  state: string;
  worker: string;
  tookMs: number;
  doneAt: number;
  bytesRead: number;
  bytesWritten: number;
}

const TICK_MS = 10;
/** Processor time of all children that ended, user and system, ticks (proc(5), cutime and cstime). */
function endedTicks(): number {
  const text = readFileSync("/proc/self/stat", "utf8");
  const fields = text.slice(text.lastIndexOf(")") + 2).split(" ");
  return Number(fields[13]) + Number(fields[14]);
}

/** Runs a batch with some workers. @returns its jobs in the order in which they were done */
async function measured(folder: string, workers: number, ...how: string[]): Promise<Logged[]> {
  const url = `${queue.url}/${database++}`;
  const log = join(dir, `${database}.jsonl`);
  const running = Array.from({ length: workers }, (_, k) => {
    // a core each, as if each were a machine
    Running.through = ["taskset", "--cpu-list", `${k}`];
    return new Running("work", "--queue", url, "--name", `w${k}`, ...how);
  });
  Running.through = [];
  const out = join(dir, `out-${database}`);
  const batch = new Running("batch", folder, "--out", out, "--queue", url, "--log", log);
  const before = endedTicks();
  if ((await batch.end()) !== 0) throw new Error(batch.err);
  const ofBatch = endedTicks() - before;
  await Promise.all(running.map((one) => one.kill()));
  const ofWorkers = endedTicks() - before - ofBatch;
  const lines = readFileSync(log, "utf8").trim().split("\n");
  const entries = lines.map((line) => JSON.parse(line) as Logged);
  const jobs = entries.filter(({ state }) => state === "job");
  say(
    `processor time a job: workers ${((ofWorkers * TICK_MS) / jobs.length).toFixed(0)} ms, batch ${((ofBatch * TICK_MS) / jobs.length).toFixed(0)} ms (with their starts)`,
  );
  return jobs.sort((a, b) => a.doneAt - b.doneAt);
}
let database = 1;

/** Jobs an hour between the first quarter, in which workers get warm, and the end. */
function anHour(jobs: readonly Logged[]): number {
  const warm = Math.floor(jobs.length / 4);
  const ms = jobs.at(-1)!.doneAt - jobs[warm]!.doneAt;
  return ((jobs.length - 1 - warm) / ms) * 3_600_000;
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;

interface Compared {
  one: Logged[];
  /** jobs an hour of one and of two workers */
  rates: readonly [number, number];
}

/** One worker against two, a core and a thread each, one job at a time each. */
async function compareWorkers(what: string, folder: string, memory: number): Promise<Compared> {
  const how = ["--threads", "1", "--memory", `${memory}`];
  const one = await measured(folder, 1, ...how);
  const two = await measured(folder, 2, ...how);
  const rates = [anHour(one), anHour(two)] as const;
  const ratio = rates[1] / rates[0];
  say(
    `${what}: one worker ${rates[0].toFixed(0)} an hour, two ${rates[1].toFixed(0)}, ${ratio.toFixed(2)} times`,
  );
  return { one, rates };
}

const largeCompared = largeFolder
  ? await compareWorkers("large brackets", largeFolder, 1500)
  : undefined;
const { one, rates } = await compareWorkers("small brackets", frames, 700);
const warm = one.slice(Math.floor(one.length / 4));
const gaps = warm.slice(1).map((job, i) => job.doneAt - job.tookMs - warm[i]!.doneAt);
const betweenMs = median(gaps);
say(
  `between a job and the next one: median ${betweenMs.toFixed(1)} ms, most ${Math.max(...gaps).toFixed(1)} ms`,
);
const mean = (values: number[]): number => values.reduce((a, b) => a + b, 0) / values.length;
const tookMs = mean(warm.map((job) => job.tookMs));

/** How many jobs without a picture the queue gets done in a second, with the data of real ones. */
async function handedOut(
  workers: number,
  jobs: number,
  work: () => Promise<unknown>,
): Promise<number> {
  const connection = { url: `${queue.url}/9`, maxRetriesPerRequest: null };
  const own = new Queue("empty", { connection });
  const data = { text: "x".repeat(6000) };
  await own.addBulk(
    Array.from({ length: jobs }, () => ({ name: "empty", data, opts: { priority: 1 } })),
  );
  let done = 0;
  const began = performance.now();
  await new Promise<void>((resolve) => {
    for (let k = 0; k < workers; k++) {
      const worker = new Worker("empty", work, { connection });
      worker.on("completed", () => {
        if (++done === jobs) resolve();
      });
      closing.push(() => worker.close());
    }
  });
  const rate = (jobs / (performance.now() - began)) * 1000;
  await Promise.all(closing.splice(0).map((close) => close()));
  await own.obliterate({ force: true });
  await own.close();
  return rate;
}
const closing: (() => Promise<void>)[] = [];
const lasting = (ms: number) => () => new Promise((wake) => setTimeout(wake, ms));
const most = await handedOut(32, 6000, lasting(0));
const queueMs = 1000 / most;
say(`the queue hands out ${most.toFixed(0)} jobs a second, ${queueMs.toFixed(2)} ms each`);

const ENDLESS = 1e12;
const seconds = 3600;
const spread = 0.1;
const small: JobCost = {
  readBytes: 0,
  writeBytes: 0,
  computeMs: tookMs,
  spread,
  queueMs,
  betweenMs,
};
say("\nmodel beside what was measured, jobs an hour");
say("| jobs | workers | measured | model |");
say("| --- | --- | --- | --- |");
for (const [k, rate] of rates.entries()) {
  const model = simulateStudio(small, { workers: k + 1, storage: ENDLESS, link: ENDLESS }, seconds);
  say(`| small brackets | ${k + 1} | ${rate.toFixed(0)} | ${model.anHour.toFixed(0)} |`);
}
for (const workers of [1, 4, 16, 64]) {
  const jobs = Math.min(6000, 100 * workers);
  const rate = (await handedOut(workers, jobs, lasting(20))) * 3600;
  // a timer of 20 ms takes one more
  const cost = { ...small, computeMs: 21, spread: 0, betweenMs: queueMs };
  const model = simulateStudio(cost, { workers, storage: ENDLESS, link: ENDLESS }, 60);
  say(`| empty, 20 ms | ${workers} | ${rate.toFixed(0)} | ${model.anHour.toFixed(0)} |`);
}

// jobs that take from one storage of 50 MB/s as a bracket does, and compute 400 ms
const rate = 50e6;
const storage = new SlowStorage(rate);
await storage.start();
const asking: JobCost = {
  readBytes: 7e6,
  writeBytes: 1.5e6,
  computeMs: 400,
  spread: 0,
  queueMs,
  betweenMs: queueMs,
};
for (const workers of [1, 2, 4, 8, 16]) {
  const done = await handedOut(workers, 20 * workers, async () => {
    await storage.take(asking.readBytes);
    await lasting(asking.computeMs)();
    await storage.take(asking.writeBytes);
  });
  const model = simulateStudio(asking, { workers, storage: rate, link: rate }, 600);
  say(
    `| 8.5 MB of 50 MB/s | ${workers} | ${(done * 3600).toFixed(0)} | ${model.anHour.toFixed(0)} |`,
  );
}
storage.end();

/** What a job costs, of some that were measured once a worker was warm. */
function costOf(jobs: readonly Logged[]): JobCost {
  const [, ...rest] = jobs;
  return {
    readBytes: mean(rest.map((job) => job.bytesRead)),
    writeBytes: mean(rest.map((job) => job.bytesWritten)),
    computeMs: mean(rest.map((job) => job.tookMs)),
    spread: 0.2,
    queueMs,
    betweenMs,
  };
}
const large = largeCompared ? costOf(largeCompared.one) : small;
say(
  `\na job of ${(large.readBytes / 1e6).toFixed(0)} MB read, ${(large.writeBytes / 1e6).toFixed(0)} MB written, ${(large.computeMs / 1000).toFixed(1)} s a worker, jobs an hour`,
);
say("| workers | storage 110 MB/s | busy | storage 1.1 GB/s | busy | queue busy |");
say("| --- | --- | --- | --- | --- | --- |");
for (const workers of [1, 2, 5, 10, 20, 50, 100, 200]) {
  const slow = simulateStudio(large, { workers, storage: 110e6, link: 110e6 }, seconds);
  const fast = simulateStudio(large, { workers, storage: 1100e6, link: 110e6 }, seconds);
  say(
    `| ${workers} | ${slow.anHour.toFixed(0)} | ${(100 * slow.storageBusy).toFixed(0)} % | ${fast.anHour.toFixed(0)} | ${(100 * fast.storageBusy).toFixed(0)} % | ${(100 * fast.queueBusy).toFixed(1)} % |`,
  );
}
await queue.end();
rmSync(dir, { recursive: true, force: true });
process.exit(0);
