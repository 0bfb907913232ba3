import * as v from "valibot";

/** What is done with a shoot of a backup: what is missing here, a second one beside it, nothing. */
const HowSchema = v.picklist(["missing", "copy", "nothing"]);
export type RestoreHow = v.InferOutput<typeof HowSchema>;
const Choices = v.record(v.string(), HowSchema);
/** A file of the browser's own, or one that the user chose. */
const FileHandle = v.custom<FileSystemFileHandle>(
  (value) => (value as { kind?: unknown } | null)?.kind === "file",
);

/** What the worker of backups is told. */
export const BackupOrderSchema = v.variant("what", [
  v.object({
    what: v.literal("write"),
    shoots: v.array(v.string()),
    withHistory: v.boolean(),
    withOwn: v.boolean(),
    target: FileHandle,
  }),
  v.object({ what: v.literal("compare"), file: v.instance(Blob), name: v.string() }),
  v.object({
    what: v.literal("restore"),
    file: v.instance(Blob),
    name: v.string(),
    choices: Choices,
  }),
]);
export type BackupOrder = v.InferOutput<typeof BackupOrderSchema>;

/** How a shoot of a backup stands to what is here. */
const ComparedSchema = v.object({
  folder: v.string(),
  name: v.string(),
  frames: v.number(),
  stacks: v.number(),
  /** the shoot is in this browser */
  isHere: v.boolean(),
  /** frames, and files of frames, that are not here */
  missing: v.number(),
});
export type ComparedShoot = v.InferOutput<typeof ComparedSchema>;

const RestoredSchema = v.object({
  frames: v.number(),
  stacks: v.number(),
  /** what could not be restored, in sentences */
  problems: v.array(v.string()),
});
export type Restored = v.InferOutput<typeof RestoredSchema>;

/** What it answers. */
export const BackupAnswerSchema = v.variant("what", [
  v.object({ what: v.literal("progress"), share: v.number(), doing: v.string() }),
  v.object({ what: v.literal("written"), bytes: v.number() }),
  v.object({
    what: v.literal("compared"),
    madeAt: v.optional(v.number()),
    shoots: v.array(ComparedSchema),
    problems: v.array(v.string()),
  }),
  v.object({ what: v.literal("restored"), ...RestoredSchema.entries }),
  v.object({
    what: v.literal("failed"),
    code: v.string(),
    message: v.string(),
    remedy: v.string(),
  }),
]);
export type BackupAnswer = v.InferOutput<typeof BackupAnswerSchema>;
