import { RhizomeError } from "../../core/error";

export interface Job { id: number; title: string; share: number; doing: string; state: "waiting" | "running" | "done" | "failed" | "stopped"; startedAt: number; error?: RhizomeError; note?: string; stop(): void; again?: () => void }

let jobs: Job[] = [];
let nextId = 1;
let tail: Promise<void> = Promise.resolve();
const listeners = new Set<() => void>();
const tell = (): void => { for (const f of listeners) f(); };
const patch = (id: number, part: Partial<Job>): void => { jobs = jobs.map((j) => (j.id === id ? { ...j, ...part } : j)); tell(); };

export const subscribeJobs = (f: () => void): (() => void) => { listeners.add(f); return () => listeners.delete(f); };
export const readJobs = (): readonly Job[] => jobs;
export const forget = (id: number): void => { jobs = jobs.filter((j) => j.id !== id); tell(); };

/** Puts work into the tray. Jobs run one after the other, each with all the workers. */
export function startJob(title: string, work: (progress: (share: number, doing: string) => void, signal: AbortSignal) => Promise<string | undefined>): Promise<void> {
  const id = nextId++, stopper = new AbortController();
  jobs = [...jobs, { id, title, share: 0, doing: "Waiting", state: "waiting", startedAt: Date.now(), stop: () => { stopper.abort(); patch(id, { state: "stopped", doing: "Stopped" }); } }];
  tell();
  const mine = tail.then(async () => {
    if (stopper.signal.aborted) return;
    patch(id, { state: "running", startedAt: Date.now() });
    try {
      const note = await work((share, doing) => { if (!stopper.signal.aborted) patch(id, { share, doing }); }, stopper.signal);
      patch(id, { state: "done", share: 1, doing: "Done", ...(note ? { note } : {}) });
    } catch (e) {
      const error = RhizomeError.from(e);
      if (error.code === "stopped") patch(id, { state: "stopped", doing: "Stopped" });
      else patch(id, { state: "failed", doing: "Failed", error, again: () => { forget(id); void startJob(title, work); } });
    }
  });
  tail = mine;
  return mine;
}
