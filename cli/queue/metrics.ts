import { createServer, type Server } from "node:http";
import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from "prom-client";
import { usage } from "../arguments";
import type { Done } from "./queuedJob";
import type { Room } from "./room";

/** Limits of the classes in which durations are counted, s. */
const SECONDS = [0.1, 0.25, 0.5, 1, 2.5, 5, 10, 20, 40, 80, 160, 320, 640];

/** What a worker counts, as Prometheus reads it (text format 0.0.4). */
export class WorkerMetrics {
  readonly registry = new Registry();
  private readonly jobs = new Counter({
    name: "rhizome_jobs_total",
    help: "Jobs that were tried, by what became of them: merged, kept, failed, set-aside, given-back",
    labelNames: ["state"],
    registers: [this.registry],
  });
  private readonly failures = new Counter({
    name: "rhizome_failures_total",
    help: "Tries that failed, by the code of the error",
    labelNames: ["code"],
    registers: [this.registry],
  });
  private readonly stages = new Histogram({
    name: "rhizome_stage_seconds",
    help: "How long the stages of a file took",
    labelNames: ["stage"],
    buckets: SECONDS,
    registers: [this.registry],
  });
  private readonly took = new Histogram({
    name: "rhizome_job_seconds",
    help: "How long jobs took",
    buckets: SECONDS,
    registers: [this.registry],
  });
  private readonly read = new Counter({
    name: "rhizome_read_bytes_total",
    help: "Bytes of frames that jobs read",
    registers: [this.registry],
  });
  private readonly written = new Counter({
    name: "rhizome_written_bytes_total",
    help: "Bytes of files that were made",
    registers: [this.registry],
  });
  private readonly late = new Counter({
    name: "rhizome_late_jobs_total",
    help: "Jobs that were done after they were due",
    registers: [this.registry],
  });

  constructor(room: Room) {
    collectDefaultMetrics({ register: this.registry });
    new Gauge({
      name: "rhizome_memory_budget_bytes",
      help: "Memory that jobs may take together",
      registers: [this.registry],
    }).set(room.bytes);
    new Gauge({
      name: "rhizome_memory_taken_bytes",
      help: "Memory that is set apart for the jobs at work",
      registers: [this.registry],
      collect() {
        this.set(room.bytes - room.free);
      },
    });
  }

  done({ files, bytesRead, tookMs, at }: Done, due: number | undefined): void {
    const made = files.filter((file) => !file.kept);
    this.jobs.inc({ state: made.length || !files.length ? "merged" : "kept" });
    this.took.observe(tookMs / 1000);
    if (due !== undefined && at > due) this.late.inc();
    if (made.length) this.read.inc(bytesRead);
    for (const { size, timingsMs } of made) {
      this.written.inc(size);
      for (const [stage, ms] of Object.entries(timingsMs))
        if (stage !== "total") this.stages.observe({ stage }, ms / 1000);
    }
  }

  failed(code: string, state: "failed" | "set-aside"): void {
    this.jobs.inc({ state });
    this.failures.inc({ code });
  }

  givenBack(): void {
    this.jobs.inc({ state: "given-back" });
  }
}

/** Where metrics are served. */
export interface MetricsPlace {
  host: string;
  port: number;
}

/** Reads --metrics [HOST:]PORT. @throws RhizomeError `usage` */
export function metricsPlace(text: string): MetricsPlace {
  const [, host = "127.0.0.1", port] = /^(?:(.+):)?(\d{1,5})$/.exec(text) ?? [];
  if (port === undefined || Number(port) > 65535)
    throw usage(`--metrics is written [HOST:]PORT, not "${text}"`);
  return { host, port: Number(port) };
}

/** Serves metrics at /metrics. @throws what listening throws */
export async function serveMetrics(
  { registry }: WorkerMetrics,
  { host, port }: MetricsPlace,
): Promise<Server> {
  const server = createServer((request, response) => {
    if (request.url !== "/metrics") {
      response
        .writeHead(404, { "Content-Type": "text/plain" })
        .end("The metrics are at /metrics.\n");
      return;
    }
    void registry.metrics().then((text) => {
      response.writeHead(200, { "Content-Type": registry.contentType }).end(text);
    });
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, host, resolve);
  });
  return server;
}
