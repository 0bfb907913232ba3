import { isUnderWay, type Job } from "../work/jobs";

/** A job that is this far tells by itself how long it takes. */
const TELLING_SHARE = 0.05;

/** How long a job still takes, ms; undefined where nothing is known of it. */
export function jobTimeLeft(job: Job, now: number): number | undefined {
  const { state, share, startedAt, expectedMs } = job;
  if (!isUnderWay(job)) return 0;
  if (state === "waiting") return expectedMs;
  const spent = now - startedAt;
  if (share > TELLING_SHARE) return (spent / share) * (1 - share);
  return expectedMs === undefined ? undefined : Math.max(0, expectedMs - spent);
}

/**
 * How long all jobs still take, ms: those of which nothing is known as long as the others on
 * average; undefined where nothing is known of any.
 */
export function timeLeft(jobs: readonly Job[], now: number): number | undefined {
  const underWay = jobs.filter(isUnderWay);
  const known = underWay.flatMap((job) => jobTimeLeft(job, now) ?? []);
  if (!known.length) return undefined;
  const sum = known.reduce((total, ms) => total + ms, 0);
  return sum * (underWay.length / known.length);
}

/** How far all jobs are together, 0 to 1: each by how long it takes as a whole. */
export function shareDone(jobs: readonly Job[]): number {
  const known = jobs.flatMap(({ expectedMs }) => expectedMs ?? []);
  const usual = known.length ? known.reduce((sum, ms) => sum + ms, 0) / known.length : 1;
  const weights = jobs.map(({ expectedMs }) => expectedMs ?? usual);
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  const done = jobs.reduce(
    (sum, job, i) => sum + weights[i]! * (isUnderWay(job) ? job.share : 1),
    0,
  );
  return all ? done / all : 0;
}
