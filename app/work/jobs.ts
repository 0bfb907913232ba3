import { createStore } from "zustand/vanilla";
import { RhizomeError } from "../../core/error";

type Work = (
  progress: (share: number, doing: string) => void,
  signal: AbortSignal,
) => Promise<string | undefined>;
/** What a job is for: what the user asked for by name goes before what runs by itself. */
export type JobKind = "delivery" | "merge";
const ORDER: readonly JobKind[] = ["delivery", "merge"];
export interface Job {
  id: number;
  title: string;
  kind: JobKind;
  /** the stack it works on, and its shoot */
  about?: string;
  shoot?: string;
  share: number;
  doing: string;
  state: "waiting" | "running" | "done" | "failed" | "stopped";
  startedAt: number;
  error?: RhizomeError;
  note?: string;
  stop(): void;
  again?: () => void;
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
const jobsNow = (): readonly Job[] => tray.getState().jobs;
const works = new Map<number, { work: Work; stopper: AbortController; ended: () => void }>();
let nextId = 1;
const patch = (id: number, part: Partial<Job>): void =>
  tray.setState({ jobs: jobsNow().map((j) => (j.id === id ? { ...j, ...part } : j)) });

export const forget = (id: number): void =>
  tray.setState({ jobs: jobsNow().filter((j) => j.id !== id) });
export const forgetDone = (): void =>
  tray.setState({ jobs: jobsNow().filter((j) => j.state === "running" || j.state === "waiting") });
export function pause(paused: boolean): void {
  tray.setState({ paused });
  next();
}
/** Puts a waiting job before all other waiting ones. */
export function toFront(id: number): void {
  const job = jobsNow().find((j) => j.id === id);
  const first = jobsNow().findIndex((j) => j.state === "waiting");
  if (!job || first < 0) return;
  const rest = jobsNow().filter((j) => j.id !== id);
  tray.setState({ jobs: [...rest.slice(0, first), job, ...rest.slice(first)] });
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
export function startJob(
  title: string,
  work: Work,
  { kind = "merge", about, shoot }: Partial<Pick<Job, "kind" | "about" | "shoot">> = {},
): Promise<void> {
  const id = nextId++;
  const stopper = new AbortController();
  const stop = (): void => {
    stopper.abort();
    patch(id, { state: "stopped", doing: "Stopped" });
    const w = works.get(id);
    if (w && running !== id) {
      works.delete(id);
      w.ended();
    }
  };
  const job: Job = {
    id,
    title,
    kind,
    ...(about ? { about } : {}),
    ...(shoot ? { shoot } : {}),
    share: 0,
    doing: "Waiting",
    state: "waiting",
    startedAt: Date.now(),
    stop,
  };
  const later = jobsNow().findIndex(
    (j) => j.state === "waiting" && ORDER.indexOf(j.kind) > ORDER.indexOf(kind),
  );
  const at = later < 0 ? jobsNow().length : later;
  tray.setState({ jobs: [...jobsNow().slice(0, at), job, ...jobsNow().slice(at)] });
  const ended = new Promise<void>((ok) => works.set(id, { work, stopper, ended: ok }));
  next();
  return ended;
}

let running: number | undefined;
function next(): void {
  const job = jobsNow().find((j) => j.state === "waiting");
  if (running !== undefined || tray.getState().paused || !job) return;
  running = job.id;
  void run(job).finally(() => {
    running = undefined;
    works.get(job.id)?.ended();
    works.delete(job.id);
    next();
  });
}

async function run({ id, title, kind, about, shoot }: Job): Promise<void> {
  const { work, stopper } = works.get(id)!;
  patch(id, { state: "running", startedAt: Date.now() });
  try {
    const note = await work((share, doing) => {
      if (!stopper.signal.aborted) patch(id, { share, doing });
    }, stopper.signal);
    if (!stopper.signal.aborted)
      patch(id, { state: "done", share: 1, doing: "Done", ...(note ? { note } : {}) });
  } catch (e) {
    const error = RhizomeError.from(e);
    if (error.code === "stopped") patch(id, { state: "stopped", doing: "Stopped" });
    else
      patch(id, {
        state: "failed",
        doing: "Failed",
        error,
        again: () => {
          forget(id);
          void startJob(title, work, {
            kind,
            ...(about ? { about } : {}),
            ...(shoot ? { shoot } : {}),
          });
        },
      });
  }
}
