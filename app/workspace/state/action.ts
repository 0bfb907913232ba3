import * as v from "valibot";
import { RhizomeError } from "../../../core/error";
import { forAnyView, parseRecipe } from "../../../pipeline/recipe/recipe";
import { change, step } from "../../store/changes";
import { exclusively, type Writer } from "../../store/exclusive";
import { patched, PatchesSchema } from "../../store/patches";
import { readStack } from "../../store/shoots";

/** What an opened stack can be asked to change. */
export const IntentSchema = v.variant("intent", [
  v.object({ intent: v.picklist(["undo", "redo"]) }),
  v.object({
    intent: v.literal("recipe"),
    /** from the recipe that was on screen: what another tab changed in it meanwhile stays */
    patches: PatchesSchema,
    label: v.pipe(v.string(), v.minLength(1), v.maxLength(120)),
  }),
  v.object({ intent: v.literal("accept"), key: v.pipe(v.string(), v.minLength(1)) }),
  /** new stacks of the shoot begin as this one is prepared, or do so no more */
  v.object({ intent: v.literal("prepare") }),
]);
export type Intent = v.InferOutput<typeof IntentSchema>;

/** What became of it. */
export interface Outcome {
  /** why nothing was kept, and what to do */
  failed?: string;
}

interface Where {
  shoot: string;
  stack: string;
}

/** Does what was asked as one change that can be undone; what cannot be kept is said. */
export async function runIntent(where: Where, request: unknown): Promise<Outcome> {
  try {
    const intent = v.parse(IntentSchema, request);
    await exclusively((writer) => keep(writer, where, intent));
    return {};
  } catch (e) {
    return { failed: RhizomeError.from(e).sentence };
  }
}

async function keep(writer: Writer, { shoot, stack: id }: Where, intent: Intent): Promise<void> {
  if (intent.intent === "undo" || intent.intent === "redo") {
    await step(writer, shoot, intent.intent);
    return;
  }
  const { take, stack, shoot: record } = await readStack(shoot, id);
  switch (intent.intent) {
    case "recipe": {
      const recipe = parseRecipe(patched(take.recipe, intent.patches as never));
      await change(writer, shoot, intent.label, [{ store: "takes", value: { ...take, recipe } }]);
      return;
    }
    case "accept": {
      const { accepted: was } = stack;
      const accepted = was.includes(intent.key)
        ? was.filter((key) => key !== intent.key)
        : [...was, intent.key];
      const value = { ...stack, accepted };
      await change(writer, shoot, "Accept a suspect", [{ store: "stacks", value }]);
      return;
    }
    case "prepare": {
      const { prepare: was, ...rest } = record;
      const prepare = forAnyView(take.recipe);
      const isSame = JSON.stringify(was) === JSON.stringify(prepare);
      const value = isSame ? rest : { ...rest, prepare };
      const label = isSame ? "No settings for new stacks" : "Settings for new stacks";
      await change(writer, shoot, label, [{ store: "shoots", value }]);
    }
  }
}
