import type { Job } from "../work/jobs";

const STATES: Record<Job["state"], string> = {
  waiting: "waits",
  running: "runs",
  done: "done",
  failed: "failed",
  stopped: "stopped",
};

/** What became of a job, in words: its note, or why it failed and what to do. */
export function outcomeOf({ state, doing, note, error }: Job): string {
  if (state === "failed") return `Failed. ${error?.sentence ?? ""}`.trim();
  return note ? `${doing}: ${note}` : doing;
}

/** The tray as plain text, a line a job, and one for each file that is made. */
export const trayAsText = (jobs: readonly Job[]): string =>
  jobs
    .flatMap((job) => {
      const outcome = job.state === "failed" ? job.error?.sentence : job.note;
      const made = (job.files ?? []).filter(({ state }) => state === "done");
      return [
        `${STATES[job.state]}\t${job.title}${outcome ? `\t${outcome}` : ""}`,
        ...made.map(({ name, bytes }) => `\t${name}${bytes ? `\t${bytes} bytes` : ""}`),
      ];
    })
    .join("\n") + "\n";
