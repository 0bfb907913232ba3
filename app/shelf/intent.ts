import * as v from "valibot";
import { ShootWordsSchema } from "../store/shelf";

/** What the shelf can be asked to do. */
export const ShelfIntentSchema = v.variant("intent", [
  v.object({ intent: v.literal("delete"), shoot: v.string() }),
  v.object({ intent: v.literal("describe"), shoot: v.string(), words: ShootWordsSchema }),
]);
export type ShelfIntent = v.InferOutput<typeof ShelfIntentSchema>;
