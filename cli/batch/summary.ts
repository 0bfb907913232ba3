import { counted } from "../../core/counted";
import type { Outcome } from "./runJob";

/** A job that was done, as it is counted. */
export interface CountedJob {
  files: readonly Outcome[];
  /** who did it */
  worker: string;
  /** bytes of the frames' files */
  bytesRead: number;
  /** when it was done, ms since 1970 */
  at: number;
}

/** What came of a batch, in numbers. */
export interface Summary {
  jobs: number;
  merged: number;
  kept: number;
  failed: number;
  late: number;
  workers: number;
  bytesRead: number;
  bytesWritten: number;
  /** from the first job put in to the last one done */
  tookMs: number;
  /** how long each stage took in all files together */
  stagesMs: Record<string, number>;
  /** how often each error came */
  failures: Record<string, number>;
}

/** Counts what comes of a batch's jobs. */
export class Counts {
  private readonly done: CountedJob[] = [];
  private readonly codes: string[] = [];

  add(done: CountedJob): void {
    this.done.push(done);
  }
  failed(code: string): void {
    this.codes.push(code);
  }

  get over(): number {
    return this.done.length + this.codes.length;
  }

  /** @param due  when the batch was to be done, ms since 1970 */
  summary(jobs: number, tookMs: number, due: number | undefined): Summary {
    const made = this.done.flatMap(({ files }) => files.filter((file) => !file.kept));
    const merged = this.done.filter(({ files }) => files.some((file) => !file.kept));
    return {
      jobs,
      merged: merged.length,
      kept: this.done.length - merged.length,
      failed: this.codes.length,
      late: due === undefined ? 0 : this.done.filter(({ at }) => at > due).length,
      workers: new Set(this.done.map(({ worker }) => worker)).size,
      bytesRead: merged.reduce((sum, { bytesRead }) => sum + bytesRead, 0),
      bytesWritten: made.reduce((sum, { size }) => sum + size, 0),
      tookMs: Math.round(tookMs),
      stagesMs: summed(made.flatMap(({ timingsMs }) => Object.entries(timingsMs))),
      failures: summed(this.codes.map((code) => [code, 1])),
    };
  }
}

function summed(entries: readonly (readonly [string, number])[]): Record<string, number> {
  const sums: Record<string, number> = {};
  for (const [key, value] of entries) sums[key] = Math.round((sums[key] ?? 0) + value);
  return sums;
}

const mebibytes = (bytes: number): string => `${(bytes / 2 ** 20).toFixed(1)} MiB`;

/** A summary in words, a line a matter. */
export function summaryText(s: Summary): string {
  const seconds = s.tookMs / 1000;
  const anHour = Math.round((s.merged / Math.max(seconds, 1e-3)) * 3600);
  const stages = Object.entries(s.stagesMs)
    .filter(([stage]) => stage !== "total")
    .map(([stage, ms]) => `${stage} ${(ms / 1000).toFixed(1)} s`);
  const failures = Object.entries(s.failures).map(([code, times]) => `${code} ${times}`);
  return [
    `${s.merged} merged, ${s.kept} kept, ${s.failed} set aside of ${s.jobs} in ${seconds.toFixed(1)} s, by ${counted(s.workers, "worker")}, ${anHour} an hour`,
    `${mebibytes(s.bytesRead)} read, ${mebibytes(s.bytesWritten)} written`,
    ...(stages.length ? [`all together: ${stages.join(", ")}`] : []),
    ...(failures.length ? [`set aside for: ${failures.join(", ")}`] : []),
    ...(s.late ? [`${s.late} came after they were due`] : []),
  ].join("\n");
}
