import * as v from "valibot";

/** What the screen asks for. */
export const StorageIntentSchema = v.variant("intent", [
  v.object({ intent: v.literal("limit"), bytes: v.number() }),
  v.object({ intent: v.literal("clear"), shoots: v.nullable(v.array(v.string())) }),
  v.object({ intent: v.literal("delete"), shoots: v.array(v.string()) }),
]);
export type StorageIntent = v.InferOutput<typeof StorageIntentSchema>;
