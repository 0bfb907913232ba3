import { basename, extname, join, resolve } from "node:path";
import type { FoundStack } from "../../core/grouping/foundStack";
import type { Delivery } from "../../pipeline/deliver/settings";
import { asLight, memberContent, memberInfo } from "../../pipeline/memberResults";
import { isMerged, type RecipeKind } from "../../pipeline/recipe/kinds";
import { defaultRecipe, nestedRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import type { ReadFrame } from "../readFrames";
import { namedFiles } from "./batchFiles";
import { memberId, type JobFrame, type StackJob, type TakenFrame } from "./job";

/** What a batch does with the stacks of a folder. */
export interface BatchPlan {
  /** the folder with the frames; its last part is the shoot's name */
  folder: string;
  /** the folder for the results */
  out: string;
  /** the folder for what lies between frames and files */
  between: string;
  deliveries: readonly Delivery[];
  withLook: (recipe: Recipe) => Recipe;
}

const withoutEnding = (file: string): string => basename(file, extname(file));

const taken = ({ id, content, source, size, info }: ReadFrame): TakenFrame => ({
  id,
  content,
  path: resolve(source.path!),
  size,
  info,
});

/** A stack's frames: of a nested one the results of its members, where these are merged. */
async function framesOf(
  stack: FoundStack,
  frames: readonly TakenFrame[],
  between: string,
): Promise<JobFrame[]> {
  if (!stack.members) return stack.frames.map((i) => frames[i]!);
  const members = await Promise.all(
    stack.members.map(async ({ kind, frames: own }): Promise<JobFrame[]> => {
      const members = own.map((i) => frames[i]!);
      if (members.length < 2 || !isMerged(kind)) return members;
      const recipe = asLight(defaultRecipe(kind));
      const contents = members.map((frame) => frame.content);
      const id = await memberId(contents, recipe);
      const name = withoutEnding(members[0]!.path);
      return [
        {
          id,
          content: memberContent(contents, recipe),
          path: join(between, `${id}.exr`),
          info: memberInfo(name, members),
          member: { frames: members, recipe },
        },
      ];
    }),
  );
  return members.flat();
}

/** The jobs of a batch, one for each stack that is merged, with the names of all their files. */
export async function planJobs(
  stacks: readonly FoundStack[],
  frames: readonly ReadFrame[],
  { folder, out, between, deliveries, withLook }: BatchPlan,
): Promise<StackJob[]> {
  const merged = stacks.filter(({ kind }) => isMerged(kind));
  const all = frames.map(taken);
  const names = namedFiles(
    merged.map((s) => ({ kind: s.kind, frames: s.frames.map((i) => frames[i]!) })),
    deliveries,
    basename(resolve(folder)),
  );
  return Promise.all(
    merged.map(async (stack, k): Promise<StackJob> => {
      const kind = stack.kind as RecipeKind;
      const first = withoutEnding(frames[stack.frames[0]!]!.source.name);
      return {
        task: "deliver",
        name: `${first} and ${stack.frames.length - 1} more`,
        why: stack.why,
        frames: await framesOf(stack, all, between),
        recipe: withLook(stack.members ? nestedRecipe(kind) : defaultRecipe(kind)),
        files: names[k]!.map((name, place) => ({
          path: join(resolve(out), name),
          name,
          settings: deliveries[place]!.settings,
        })),
        between,
      };
    }),
  );
}
