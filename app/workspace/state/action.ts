import * as v from "valibot";
import { RhizomeError } from "../../../core/error";
import { forAnyView, parseRecipe } from "../../../pipeline/recipe/recipe";
import { change, step } from "../../store/changes";
import { exclusively, type Writer } from "../../store/exclusive";
import { patched, PatchesSchema } from "../../store/patches";
import { readStack } from "../../store/shoots";
import { newId } from "../../store/arrange";
import {
  addTake,
  deleteTake,
  deliverTake,
  describeTake,
  moveTake,
  type StackTakes,
} from "../../store/takes";
import type { Edit } from "../../store/edit";

/** What an opened stack can be asked to change. */
export const IntentSchema = v.variant("intent", [
  v.object({ intent: v.literal("undo") }),
  v.object({ intent: v.literal("redo") }),
  v.object({
    intent: v.literal("recipe"),
    take: v.string(),
    /** from the recipe that was on screen: what another tab changed in it meanwhile stays */
    patches: PatchesSchema,
    label: v.pipe(v.string(), v.minLength(1), v.maxLength(120)),
  }),
  v.object({
    intent: v.literal("new take"),
    beside: v.string(),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(100)),
    /** as it is on screen; a default one if not given */
    recipe: v.optional(v.unknown()),
    /** what the take that it is begun beside goes back to */
    restoredTo: v.optional(v.unknown()),
  }),
  v.object({
    intent: v.literal("describe take"),
    take: v.string(),
    name: v.optional(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120))),
    note: v.optional(v.pipe(v.string(), v.maxLength(2000))),
  }),
  v.object({ intent: v.literal("move take"), take: v.string(), by: v.picklist([-1, 1]) }),
  v.object({ intent: v.literal("delete take"), take: v.string() }),
  v.object({ intent: v.literal("deliver take"), take: v.string() }),
  v.object({ intent: v.literal("accept"), key: v.pipe(v.string(), v.minLength(1)) }),
  /** new stacks of the shoot begin as this one is prepared, or do so no more */
  v.object({ intent: v.literal("prepare") }),
]);
export type Intent = v.InferOutput<typeof IntentSchema>;

/** What became of it. */
export interface Outcome {
  /** why nothing was kept, and what to do */
  failed?: string;
  /** the take that was made */
  made?: string;
}

interface Where {
  shoot: string;
  stack: string;
}

/** Does what was asked as one change that can be undone; what cannot be kept is said. */
export async function runIntent(where: Where, request: unknown): Promise<Outcome> {
  try {
    const intent = v.parse(IntentSchema, request);
    const made = await exclusively((writer) => keep(writer, where, intent));
    return made ? { made } : {};
  } catch (e) {
    return { failed: RhizomeError.from(e).sentence };
  }
}

/** Keeps a change. @returns the take that it made, if it made one */
async function keep(
  writer: Writer,
  { shoot, stack: id }: Where,
  intent: Intent,
): Promise<string | undefined> {
  if (intent.intent === "undo" || intent.intent === "redo") {
    await step(writer, shoot, intent.intent);
    return undefined;
  }
  const opened = "take" in intent ? intent.take : undefined;
  const { take, takes, stack, shoot: record } = await readStack(shoot, id, opened);
  switch (intent.intent) {
    case "recipe": {
      const recipe = parseRecipe(patched(take.recipe, intent.patches as never));
      if (take.id !== intent.take)
        throw new RhizomeError("take-unknown", "This take is gone.", "choose another one");
      await change(writer, shoot, intent.label, [{ store: "takes", value: { ...take, recipe } }]);
      return undefined;
    }
    case "accept": {
      const { accepted: was } = stack;
      const accepted = was.includes(intent.key)
        ? was.filter((key) => key !== intent.key)
        : [...was, intent.key];
      const value = { ...stack, accepted };
      await change(writer, shoot, "Accept a suspect", [{ store: "stacks", value }]);
      return undefined;
    }
    case "prepare": {
      const { prepare: was, ...rest } = record;
      const prepare = forAnyView(take.recipe);
      const isSame = JSON.stringify(was) === JSON.stringify(prepare);
      const value = isSame ? rest : { ...rest, prepare };
      const label = isSame ? "No settings for new stacks" : "Settings for new stacks";
      await change(writer, shoot, label, [{ store: "shoots", value }]);
      return undefined;
    }
    default: {
      const made = newId();
      const { label, puts } = editOfTakes({ stack, takes }, intent, made);
      if (puts.length) await change(writer, shoot, label, puts);
      return intent.intent === "new take" ? made : undefined;
    }
  }
}

type TakeIntent = Exclude<
  Intent,
  | { intent: "recipe" }
  | { intent: "accept" }
  | { intent: "prepare" }
  | { intent: "undo" }
  | { intent: "redo" }
>;

/** What an intent does to the takes of a stack. @param id  of a take that is made */
function editOfTakes(of: StackTakes, intent: TakeIntent, id: string): Edit {
  switch (intent.intent) {
    case "new take": {
      const { beside, name, recipe, restoredTo } = intent;
      const begin = recipe
        ? { from: "this" as const, recipe: parseRecipe(recipe) }
        : { from: "default" as const };
      const restored = restoredTo === undefined ? undefined : parseRecipe(restoredTo);
      return addTake(of, id, beside, begin, name, restored);
    }
    case "describe take": {
      const { name, note } = intent;
      const words = {
        ...(name === undefined ? {} : { name }),
        ...(note === undefined ? {} : { note }),
      };
      return describeTake(of, intent.take, words);
    }
    case "move take":
      return moveTake(of, intent.take, intent.by);
    case "delete take":
      return deleteTake(of, intent.take);
    case "deliver take":
      return deliverTake(of, intent.take);
  }
}
