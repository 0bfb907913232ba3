import { random } from "../../core/math/random";

/** What a job asks of a worker, of storage and of the queue. */
export interface JobCost {
  /** bytes of frames, and of files that are made */
  readBytes: number;
  writeBytes: number;
  /** on the worker's own processor, ms, and by how much that differs from job to job (one sigma, share) */
  computeMs: number;
  spread: number;
  /** of the queue's server for one job, ms */
  queueMs: number;
  /** between a job and the next one on a worker, waiting for the queue's answers, ms */
  betweenMs: number;
}

export interface Machines {
  workers: number;
  /** bytes a second that storage gives to all, and to one */
  storage: number;
  link: number;
}

export interface Throughput {
  /** jobs an hour */
  anHour: number;
  /** shares of time in which each is at work */
  storageBusy: number;
  queueBusy: number;
  workerBusy: number;
}

type Phase = "queue" | "read" | "compute" | "write";
const NEXT: Readonly<Record<Phase, Phase>> = {
  queue: "read",
  read: "compute",
  compute: "write",
  write: "queue",
};

interface SimulatedWorker {
  phase: Phase;
  /** of what is left of the phase: bytes, or the time at which it is over, ms */
  left: number;
}

/**
 * A studio as a closed queueing network, simulated event by event: each worker takes a job from the
 * queue's server (one at a time, in order of coming), reads its frames from storage (shared fairly,
 * up to the speed of its link), computes, and writes. As many jobs as there is time for.
 *
 * @param seconds  of simulated time
 */
export function simulateStudio(
  cost: JobCost,
  { workers, storage, link }: Machines,
  seconds: number,
): Throughput {
  const rnd = random(7);
  const end = seconds * 1000;
  const all: SimulatedWorker[] = Array.from({ length: workers }, () => ({
    phase: "queue",
    left: 0,
  }));
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd());
  let now = 0;
  let queueFree = 0;
  let done = 0;
  const busy = { storage: 0, queue: 0, compute: 0 };
  const begin = (worker: SimulatedWorker, phase: Phase): void => {
    worker.phase = phase;
    if (phase === "read") worker.left = cost.readBytes;
    if (phase === "write") worker.left = cost.writeBytes;
    if (phase === "compute")
      worker.left = now + cost.computeMs * Math.max(0.1, 1 + cost.spread * normal());
    if (phase !== "queue") return;
    const from = Math.max(now, queueFree);
    queueFree = from + cost.queueMs;
    busy.queue += cost.queueMs;
    worker.left = Math.max(queueFree, now + cost.betweenMs);
  };
  for (const worker of all) begin(worker, "queue");
  while (now < end) {
    const atStorage = all.filter(({ phase }) => phase === "read" || phase === "write");
    const rate = Math.min(link, storage / Math.max(1, atStorage.length)) / 1000;
    const overAt = ({ phase, left }: SimulatedWorker): number =>
      phase === "read" || phase === "write" ? now + left / rate : left;
    const next = all.reduce((a, b) => (overAt(b) < overAt(a) ? b : a));
    const at = overAt(next);
    busy.storage += (at - now) * Math.min(1, (atStorage.length * rate * 1000) / storage);
    busy.compute += (at - now) * all.filter(({ phase }) => phase === "compute").length;
    for (const worker of atStorage) worker.left -= (at - now) * rate;
    now = at;
    if (next.phase === "write") done++;
    begin(next, NEXT[next.phase]);
  }
  return {
    anHour: (done / now) * 3_600_000,
    storageBusy: busy.storage / now,
    queueBusy: Math.min(1, busy.queue / now),
    workerBusy: busy.compute / now / workers,
  };
}
