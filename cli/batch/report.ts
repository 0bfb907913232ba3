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

/** What became of a file, in a line. @param name  by which it is called */
export const fileLine = ({ why }: StackJob, { kept, timingsMs }: Outcome, name: string): string =>
  kept
    ? `kept\t${name}`
    : `merged\t${name}\t${why}\t${((timingsMs["total"] ?? 0) / 1000).toFixed(1)} s`;

/** @param folder  for the results, as it was given: files are named within it */
export function reportTo(log: BatchRun["log"], folder: string): Report {
  const within = (path: string): string => join(folder, path.slice(resolve(folder).length + 1));
  return {
    async made(job, made) {
      const file = within(made.path);
      out(fileLine(job, made, file));
      const { kept, width, height, timingsMs } = made;
      return log(
        kept ? { state: "kept", file } : { state: "merged", file, width, height, timingsMs },
      );
    },
    async failed(path, { code, message }) {
      const file = within(path);
      out(`failed\t${file}\t${code}: ${message}`);
      return log({ state: "failed", file, code, message });
    },
  };
}
