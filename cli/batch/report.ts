import { join, resolve } from "node:path";
import type { RhizomeError } from "../../core/error";
import { out } from "../arguments";
import type { StackJob } from "./job";
import type { Outcome } from "./runJob";

/** A batch in the making. */
export interface BatchRun {
  report: Report;
  /** whether progress is shown */
  show: boolean;
  log: (entry: Record<string, unknown>) => Promise<void>;
}

/** Says what became of files, on standard output and in the log. */
export interface Report {
  made(job: StackJob, file: Outcome): Promise<void>;
  failed(path: string, error: RhizomeError): Promise<void>;
}

/** @param folder  for the results, as it was given: files are named within it */
export function reportTo(log: BatchRun["log"], folder: string): Report {
  const within = (path: string): string => join(folder, path.slice(resolve(folder).length + 1));
  return {
    async made({ why }, { path, kept, width, height, timingsMs }) {
      const file = within(path);
      if (kept) {
        out(`kept\t${file}`);
        return log({ state: "kept", file });
      }
      out(`merged\t${file}\t${why}\t${((timingsMs["total"] ?? 0) / 1000).toFixed(1)} s`);
      return log({ state: "merged", file, width, height, timingsMs });
    },
    async failed(path, { code, message }) {
      const file = within(path);
      out(`failed\t${file}\t${code}: ${message}`);
      return log({ state: "failed", file, code, message });
    },
  };
}
