import { RhizomeError } from "../../core/error";

type Work = (progress: (share: number, doing: string) => void, signal: AbortSignal) => Promise<string | undefined>;
export interface Job { id: number; title: string; /** the stack it works on */ about?: string; share: number; doing: string; state: "waiting" | "running" | "done" | "failed" | "stopped"; startedAt: number; error?: RhizomeError; note?: string; stop(): void; again?: () => void }

/** The tray: jobs run one after the other, each with all the workers. A pause lets the running one end and holds the rest. */
export interface Tray { jobs: readonly Job[]; paused: boolean }
let tray: Tray = { jobs: [], paused: false };
const works = new Map<number, { work: Work; stopper: AbortController; ended: () => void }>();
let nextId = 1;
const listeners = new Set<() => void>();
const set = (next: Partial<Tray>): void => { tray = { ...tray, ...next }; for (const f of listeners) f(); };
const patch = (id: number, part: Partial<Job>): void => set({ jobs: tray.jobs.map((j) => (j.id === id ? { ...j, ...part } : j)) });

export const subscribeJobs = (f: () => void): (() => void) => { listeners.add(f); return () => listeners.delete(f); };
export const readTray = (): Tray => tray;
export const forget = (id: number): void => set({ jobs: tray.jobs.filter((j) => j.id !== id) });
export const forgetDone = (): void => set({ jobs: tray.jobs.filter((j) => j.state === "running" || j.state === "waiting") });
export function pause(paused: boolean): void { set({ paused }); next(); }
/** Puts a waiting job before all other waiting ones. */
export function toFront(id: number): void {
  const job = tray.jobs.find((j) => j.id === id), first = tray.jobs.findIndex((j) => j.state === "waiting");
  if (!job || first < 0) return;
  const rest = tray.jobs.filter((j) => j.id !== id);
  set({ jobs: [...rest.slice(0, first), job, ...rest.slice(first)] });
}

/** Puts work into the tray. @returns when it has ended, in whatever way */
export function startJob(title: string, work: Work, about?: string): Promise<void> {
  const id = nextId++, stopper = new AbortController();
  const stop = (): void => { stopper.abort(); patch(id, { state: "stopped", doing: "Stopped" }); const w = works.get(id); if (w && running !== id) { works.delete(id); w.ended(); } };
  set({ jobs: [...tray.jobs, { id, title, ...(about ? { about } : {}), share: 0, doing: "Waiting", state: "waiting", startedAt: Date.now(), stop }] });
  const ended = new Promise<void>((ok) => works.set(id, { work, stopper, ended: ok }));
  next();
  return ended;
}

let running: number | undefined;
function next(): void {
  const job = tray.jobs.find((j) => j.state === "waiting");
  if (running !== undefined || tray.paused || !job) return;
  running = job.id;
  void run(job).finally(() => { running = undefined; works.get(job.id)?.ended(); works.delete(job.id); next(); });
}

async function run({ id, title, about }: Job): Promise<void> {
  const { work, stopper } = works.get(id)!;
  patch(id, { state: "running", startedAt: Date.now() });
  try {
    const note = await work((share, doing) => { if (!stopper.signal.aborted) patch(id, { share, doing }); }, stopper.signal);
    if (!stopper.signal.aborted) patch(id, { state: "done", share: 1, doing: "Done", ...(note ? { note } : {}) });
  } catch (e) {
    const error = RhizomeError.from(e);
    if (error.code === "stopped") patch(id, { state: "stopped", doing: "Stopped" });
    else patch(id, { state: "failed", doing: "Failed", error, again: () => { forget(id); void startJob(title, work, about); } });
  }
}
