import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { MadeFileSchema } from "../batch/manifest";

/** What of a queued job is not its stack's. */
const QueuedSchema = v.object({
  id: v.string(),
  /** read by `readJob` */
  job: v.unknown(),
  /** when it is to be done, ms since 1970 */
  due: v.optional(v.number()),
  /** how often it was begun alone, after a worker was lost with it */
  begunAlone: v.optional(v.number(), 0),
});
/** A job as it lies in the queue. */
export type Queued = v.InferInput<typeof QueuedSchema>;

const DoneSchema = v.object({
  files: v.array(v.object({ ...MadeFileSchema.entries, path: v.string(), kept: v.boolean() })),
  /** of a panorama whose frames were located, px */
  canvas: v.optional(v.object({ width: v.number(), height: v.number() })),
  /** who did it */
  worker: v.string(),
  /** bytes of the frames' files */
  bytesRead: v.number(),
  tookMs: v.number(),
  /** when it was done, ms since 1970 */
  at: v.number(),
});
/** What a worker gives back of a job. */
export type Done = v.InferOutput<typeof DoneSchema>;

const invalid = (what: string): RhizomeError =>
  new RhizomeError(
    "job-invalid",
    `${what} of the queue cannot be read.`,
    "use the same version of rhizome on every machine",
  );

/** @throws RhizomeError `job-invalid` */
export function readQueued(data: unknown): v.InferOutput<typeof QueuedSchema> {
  const read = v.safeParse(QueuedSchema, data);
  if (!read.success) throw invalid("A job");
  return read.output;
}

/** @throws RhizomeError `job-invalid` */
export function readDone(data: unknown): Done {
  const read = v.safeParse(DoneSchema, data);
  if (!read.success) throw invalid("The result of a job");
  return read.output;
}

/** How often a job is tried before it is set aside. */
export const TRIES = 3;

/** An error as the queue keeps it. */
export const reasonOf = ({ code, message, remedy }: RhizomeError): string =>
  `${code}: ${message}${remedy ? ` (${remedy})` : ""}`;

/** An error of a job from what the queue keeps of it. */
export function errorOf(reason: string): RhizomeError {
  const [, code, message, remedy] = /^([a-z][a-z-]*): (.*?)(?: \(([^()]*)\))?$/s.exec(reason) ?? [];
  if (code === undefined) return new RhizomeError("internal", reason, "try it on one machine");
  return new RhizomeError(code, message!, remedy ?? "");
}
