import * as v from "valibot";
import { FrameInfoSchema } from "../../core/frame/frame";
import { RhizomeError } from "../../core/error";
import { contentHash } from "../../pipeline/contentHash";
import { fileSettings } from "../../pipeline/deliver/settings";
import { ENGINE } from "../../pipeline/keys";
import { parseRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import { VERSION } from "../arguments";

const TakenFrameSchema = v.strictObject({
  id: v.string(),
  /** hash of its bytes */
  content: v.string(),
  /** absolute, the same on every machine */
  path: v.string(),
  /** size of its file, bytes */
  size: v.number(),
  info: FrameInfoSchema,
});
/** A frame as a camera took it. */
export type TakenFrame = v.InferOutput<typeof TakenFrameSchema>;

const RecipeSchema = v.pipe(
  v.unknown(),
  v.transform((data): Recipe => parseRecipe(data)),
);

const MemberFrameSchema = v.strictObject({
  id: v.string(),
  content: v.string(),
  /** of the member's result, which may not be there yet */
  path: v.string(),
  info: FrameInfoSchema,
  member: v.strictObject({ frames: v.array(TakenFrameSchema), recipe: RecipeSchema }),
});
/** The result of a nested stack's member as a frame. */
export type MemberFrame = v.InferOutput<typeof MemberFrameSchema>;

const FileSchema = v.strictObject({
  path: v.string(),
  /** within the folder of the results, with slashes */
  name: v.string(),
  settings: fileSettings.schema,
});
/** A file that is to be made. */
export type WantedFile = v.InferOutput<typeof FileSchema>;

const JobSchema = v.strictObject({
  /** a stack's files; the result of a nested stack's member; where a panorama's frames lie */
  task: v.picklist(["deliver", "member", "locate"]),
  /** what it is called where it is reported */
  name: v.string(),
  /** why its frames are a stack, in words */
  why: v.string(),
  frames: v.pipe(v.array(v.union([TakenFrameSchema, MemberFrameSchema])), v.minLength(1)),
  recipe: RecipeSchema,
  files: v.array(FileSchema),
  /** folder for what lies between frames and files */
  between: v.string(),
});
/** A stack with all that is needed to make its files, on any machine that sees the same folders. */
export type StackJob = v.InferOutput<typeof JobSchema>;
export type JobFrame = StackJob["frames"][number];
export const isMember = (frame: JobFrame): frame is MemberFrame => "member" in frame;

/** A job from data that came from elsewhere. @throws RhizomeError `job-invalid` */
export function readJob(data: unknown): StackJob {
  const read = v.safeParse(JobSchema, data);
  if (read.success) return read.output;
  const { path, message } = read.issues[0];
  const where = path?.map(({ key }) => String(key)).join(".");
  throw new RhizomeError(
    "job-invalid",
    `A job of the queue cannot be read: ${where ? `${where}: ` : ""}${message}.`,
    "use the same version of rhizome on every machine",
  );
}

/** What a member's result is known by: its frames, its recipe, and the engine that merges them. */
export const memberId = (contents: readonly string[], recipe: Recipe): Promise<string> =>
  hashOf(["member", VERSION, ENGINE, contents, recipe]);

/** What a job is known by: what goes in, the recipe, and the files that come out. */
export const jobId = ({ task, frames, recipe, files }: StackJob): Promise<string> =>
  hashOf([
    task,
    VERSION,
    ENGINE,
    frames.map(({ id, content, info }) => [id, content, info]),
    recipe,
    files,
  ]);

const hashOf = (data: unknown): Promise<string> =>
  contentHash(new TextEncoder().encode(JSON.stringify(data)));
