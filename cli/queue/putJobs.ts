import type { FlowJob, FlowProducer, JobsOptions, Queue } from "bullmq";
import { isMember, jobId, type StackJob } from "../batch/job";
import { memberJob } from "../batch/runJob";
import { QUEUE } from "./address";
import { placeOf, type Order } from "./order";
import { TRIES, type Queued } from "./queuedJob";

/** A panorama of so many px in its frames is located by a job of its own. */
const LARGE_PX = 150e6;
/** How many jobs go in at once. */
const CHUNK = 200;
/** How long after a failed try the next one comes: so long, and twice as long the time after, ms. */
const RETRY_MS = 5000;
/** How long what is done, and what was set aside, is known, s. */
const KNOWN_SECONDS = 14 * 24 * 3600;

/** A job with its identity. */
export interface KnownJob {
  id: string;
  job: StackJob;
}

export const withIds = (jobs: readonly StackJob[]): Promise<KnownJob[]> =>
  Promise.all(jobs.map(async (job) => ({ id: await jobId(job), job })));

/** The jobs that come before another one: members are merged, a large panorama is located. */
function childrenOf({ id, job }: KnownJob): KnownJob[] {
  const members = job.frames.filter(isMember);
  // the identity of what a member makes is its frame's; in the queue it belongs to one parent
  const children = members.map((frame) => ({ id: frame.id, job: memberJob(frame, job.between) }));
  const px = job.frames.reduce((sum, { info }) => sum + info.width * info.height, 0);
  if (job.recipe.kind !== "panorama" || members.length || px < LARGE_PX) return children;
  return [{ id: `${id}-places`, job: { ...job, task: "locate", files: [] } }];
}

function flowOf(known: KnownJob, order: Order): FlowJob {
  const queued = ({ id, job }: KnownJob): Queued => ({
    id,
    job,
    ...(order.due === undefined ? {} : { due: order.due }),
  });
  const opts: JobsOptions = {
    priority: placeOf(order),
    attempts: TRIES,
    backoff: { type: "exponential", delay: RETRY_MS },
    removeOnComplete: { age: KNOWN_SECONDS },
    removeOnFail: { age: KNOWN_SECONDS },
  };
  return {
    name: known.job.name,
    queueName: QUEUE,
    data: queued(known),
    opts: { ...opts, jobId: known.id },
    children: childrenOf(known).map((child) => ({
      name: child.job.name,
      queueName: QUEUE,
      data: queued(child),
      opts: { ...opts, jobId: `${known.id}-${child.id.slice(0, 16)}`, failParentOnFailure: true },
    })),
  };
}

/**
 * Puts jobs into the queue. One that waits there already, or is at work, is left as it is; one that
 * was done or set aside is put in once more, and its worker finds what is there of it.
 */
export async function putJobs(
  queue: Queue,
  flows: FlowProducer,
  jobs: readonly KnownJob[],
  order: Order,
): Promise<void> {
  for (let from = 0; from < jobs.length; from += CHUNK) {
    const chunk = jobs.slice(from, from + CHUNK);
    const states = await Promise.all(chunk.map(({ id }) => queue.getJobState(id)));
    const over = chunk.filter((_, k) => ["completed", "failed"].includes(states[k]!));
    await Promise.all(over.map(({ id }) => queue.remove(id)));
    const due = chunk.filter((known, k) => states[k] === "unknown" || over.includes(known));
    await flows.addBulk(due.map((known) => flowOf(known, order)));
  }
}
