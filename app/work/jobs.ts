import { createStore } from "zustand/vanilla";
import { RhizomeError } from "../../core/error";

/** A file that a delivery makes, and what is known of it. */
export interface JobFile {
  /** the delivery it belongs to; empty for the stack's main file */
  delivery: string;
  name: string;
  state: "waiting" | "done";
  /** once it is made */
  bytes?: number;
  /** px */
  size?: { width: number; height: number };
}
/** What a job tells of itself while it runs. */
export interface Report {
  progress(share: number, doing: string): void;
  files(files: readonly JobFile[]): void;
}
type Work = (report: Report, signal: AbortSignal) => Promise<string | undefined>;

/** What a job is for: what the user asked for by name goes before what runs by itself. */
export type JobKind = "delivery" | "merge";
const ORDER: readonly JobKind[] = ["delivery", "merge"];

/** What is known of a job from its beginning. */
export interface JobFacts {
  kind: JobKind;
  /** the stack it works on, and its shoot */
  about?: string;
  shoot?: string;
  /** what it is kept as, where it survives a reload */
  kept?: string;
  files?: readonly JobFile[];
  /** how long it will take, ms */
  expectedMs?: number;
  /** does it again, in place of the same work */
  again?: () => void;
  /** it is taken out of the tray */
  onForget?: () => void;
}
export interface Job extends JobFacts {
  id: number;
  title: string;
  share: number;
  doing: string;
  state: "waiting" | "running" | "done" | "failed" | "stopped";
  startedAt: number;
  error?: RhizomeError;
  note?: string;
  stop(): void;
}

/**
 * The tray: jobs run one after the other, each with all the workers, deliveries before merges. A
 * pause lets the running one end and holds the rest.
 */
export interface Tray {
  jobs: readonly Job[];
  paused: boolean;
}
export const tray = createStore<Tray>(() => ({ jobs: [], paused: false }));

interface Begun {
  work: Work;
  stopper: AbortController;
  ended: () => void;
}
const begun = new Map<number, Begun>();
let nextId = 1;
let running: number | undefined;

const jobsNow = (): readonly Job[] => tray.getState().jobs;
const setJobs = (jobs: readonly Job[]): void => tray.setState({ jobs });
const patch = (id: number, part: Partial<Job>): void =>
  setJobs(jobsNow().map((j) => (j.id === id ? { ...j, ...part } : j)));

export const isUnderWay = ({ state }: Job): boolean => state === "running" || state === "waiting";

function forgetThose(which: (job: Job) => boolean): void {
  const gone = jobsNow().filter(which);
  setJobs(jobsNow().filter((j) => !gone.includes(j)));
  for (const job of gone) job.onForget?.();
}
export const forget = (id: number): void => forgetThose((j) => j.id === id);
export const forgetDone = (): void => forgetThose((j) => !isUnderWay(j));

export function pause(paused: boolean): void {
  tray.setState({ paused });
  next();
}

/** Puts a waiting job before another waiting one; behind all where none is given. */
export function moveBefore(id: number, other: number | undefined): void {
  const job = jobsNow().find((j) => j.id === id);
  if (job?.state !== "waiting" || id === other) return;
  const rest = jobsNow().filter((j) => j.id !== id);
  const before = rest.findIndex((j) => j.id === other && j.state === "waiting");
  const at = before < 0 ? rest.findLastIndex((j) => j.state === "waiting") + 1 : before;
  setJobs([...rest.slice(0, at), job, ...rest.slice(at)]);
}

/** Moves a waiting job by a place among those that wait. */
export function moveJob(id: number, by: -1 | 1): void {
  const waiting = jobsNow().filter((j) => j.state === "waiting");
  const at = waiting.findIndex((j) => j.id === id);
  const to = at + by;
  if (at < 0 || to < 0 || to >= waiting.length) return;
  moveBefore(id, waiting[by < 0 ? to : to + 1]?.id);
}

/** Stops all that runs or waits. */
export function stopAll(): void {
  for (const job of jobsNow().filter(isUnderWay).reverse()) job.stop();
}

/** Tries a failed job again. */
export function tryAgain(id: number): void {
  const job = jobsNow().find((j) => j.id === id);
  setJobs(jobsNow().filter((j) => j.id !== id));
  job?.again?.();
}

/** Tries all again that failed. */
export function tryAllAgain(): void {
  for (const job of jobsNow().filter((j) => j.state === "failed")) tryAgain(job.id);
}

/** Stops and forgets what is about a shoot that is gone. */
export function stopWorkOf(shoot: string): void {
  for (const job of jobsNow().filter((j) => j.shoot === shoot)) {
    job.stop();
    forget(job.id);
  }
}

/** The last delivery of a stack that the tray knows of. */
export const deliveryOf = ({ jobs }: Tray, stackId: string): Job | undefined =>
  jobs.findLast((j) => j.kind === "delivery" && j.about === stackId);

/**
 * Puts work into the tray, before what is less urgent.
 *
 * @returns when it has ended, in whatever way
 */
export async function startJob(
  title: string,
  work: Work,
  given: Partial<JobFacts> = {},
): Promise<Job["state"]> {
  const id = nextId++;
  const stopper = new AbortController();
  const facts: JobFacts = { kind: "merge", ...given };
  const stop = (): void => {
    if (!begun.has(id)) return;
    stopper.abort();
    patch(id, { state: "stopped", doing: "Stopped" });
    if (running === id) return;
    begun.get(id)?.ended();
    begun.delete(id);
  };
  const job: Job = {
    again: () => void startJob(title, work, facts),
    ...facts,
    id,
    title,
    share: 0,
    doing: "Waiting",
    state: "waiting",
    startedAt: Date.now(),
    stop,
  };
  const later = jobsNow().findIndex(
    (j) => j.state === "waiting" && ORDER.indexOf(j.kind) > ORDER.indexOf(job.kind),
  );
  const at = later < 0 ? jobsNow().length : later;
  setJobs([...jobsNow().slice(0, at), job, ...jobsNow().slice(at)]);
  const ended = new Promise<void>((ok) => begun.set(id, { work, stopper, ended: ok }));
  next();
  await ended;
  return jobsNow().find((j) => j.id === id)?.state ?? "stopped";
}

/** Shows a job that failed before the page was opened. */
export function showFailed(title: string, error: RhizomeError, facts: JobFacts): void {
  const job: Job = {
    ...facts,
    id: nextId++,
    title,
    share: 0,
    doing: "Failed",
    state: "failed",
    startedAt: Date.now(),
    error,
    stop: () => undefined,
  };
  setJobs([...jobsNow(), job]);
}

function next(): void {
  const job = jobsNow().find((j) => j.state === "waiting");
  if (running !== undefined || tray.getState().paused || !job) return;
  running = job.id;
  void run(job).finally(() => {
    running = undefined;
    begun.get(job.id)?.ended();
    begun.delete(job.id);
    next();
  });
}

async function run({ id }: Job): Promise<void> {
  const { work, stopper } = begun.get(id)!;
  const { signal } = stopper;
  const tell = (part: Partial<Job>): void => {
    if (!signal.aborted) patch(id, part);
  };
  patch(id, { state: "running", startedAt: Date.now() });
  let told = "";
  const progress = (share: number, doing: string): void => {
    // what would be shown as before is not told: screens follow every change
    const now = `${Math.round(share * 100)} ${doing}`;
    if (now === told) return;
    told = now;
    tell({ share, doing });
  };
  try {
    const note = await work(
      {
        progress,
        files: (files) => tell({ files }),
      },
      signal,
    );
    tell({ state: "done", share: 1, doing: "Done", ...(note ? { note } : {}) });
  } catch (e) {
    const error = RhizomeError.from(e);
    if (error.code === "stopped") patch(id, { state: "stopped", doing: "Stopped" });
    else patch(id, { state: "failed", doing: "Failed", error });
  }
}
