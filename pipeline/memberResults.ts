import { untoned, type Recipe } from "./recipe/recipe";
import { NO_PAPER } from "./deliver/paper";
import { middleExposure } from "../core/frame/middleExposure";
import type { FrameInfo } from "../core/frame/frame";
import type { StackFrame } from "./work";
import type { Watch } from "../runtime/work";
import { deliverStack } from "./deliverStack";
import type { Threads } from "./pool";
import type { ResultCache } from "../runtime/resultCache";
import type { FileSource } from "../runtime/files";

/**
 * A frame, or the result of a nested stack's member: the frames whose merge it is, and their
 * recipe.
 */
export interface NestableFrame extends StackFrame {
  merged?: { frames: NestableFrame[]; recipe: Recipe };
}

/**
 * What the result of a member holds: its frames, and what of its recipe comes before tone.
 *
 * @param contents  hashes of its frames
 */
export const memberContent = (contents: readonly string[], recipe: Recipe): string =>
  JSON.stringify([contents, { ...recipe, deliver: undefined, tone: undefined, finish: undefined }]);

/** What the result of a member says of itself as a frame: it lies where the middle exposure lies. */
export const memberInfo = (name: string, frames: readonly { info: FrameInfo }[]): FrameInfo => ({
  ...middleExposure(frames)!.info,
  name,
  format: "exr",
  depth: 16,
  profile: "linear",
});

/** A member's result as a frame of another stack is light itself, untoned and as large as it is. */
export const asLight = (recipe: Recipe): Recipe => ({
  ...untoned(recipe, "none"),
  edges: { ...recipe.edges, mode: "keep" },
  deliver: {
    ...recipe.deliver,
    format: "exr",
    depth: "16",
    space: "linear",
    size: "full",
    paper: NO_PAPER,
    sharpenFor: "off",
    border: 0,
  },
});

/**
 * Merges the members of a nested stack, so that their results can be read as its frames; those made
 * before are taken from the result cache. Frames that are no results are left as they are.
 *
 * @throws RhizomeError what the merge of a member throws
 */
export async function mergeMembers(
  pool: Threads,
  frames: readonly NestableFrame[],
  { progress, signal }: Watch,
  resultCache: ResultCache | undefined,
  now: () => number,
): Promise<void> {
  const due = frames.filter(
    (f) => f.merged && !(f.source as FileSource).blob && !(f.source as FileSource).path,
  );
  for (const [k, f] of due.entries()) {
    const { frames: own, recipe } = f.merged!;
    const key = `member ${f.content}`;
    const source = f.source as FileSource;
    const kept = (await resultCache?.get(key).catch(() => undefined))?.blob;
    if (kept) {
      source.blob = kept;
      continue;
    }
    const { file } = await deliverStack(pool, own, asLight(recipe), {
      progress: (share) =>
        progress((k + share) / due.length, `Merging members, ${k + 1} of ${due.length}`),
      now,
      ...(signal ? { signal } : {}),
      ...(resultCache ? { placesIn: resultCache } : {}),
    });
    source.blob = file instanceof Blob ? file : new Blob(file);
    await resultCache?.put(key, source.blob).catch(() => undefined);
  }
}
