import * as v from "valibot";
import { db } from "./db";
import { exclusively } from "./exclusive";

/** Who is named on the files of all that is brought in from now on. */
const CaptionSchema = v.object({
  creator: v.pipe(v.string(), v.maxLength(200)),
  copyright: v.pipe(v.string(), v.maxLength(400)),
});
export type Naming = v.InferOutput<typeof CaptionSchema>;
const KEY = "caption";
const NOBODY: Naming = { creator: "", copyright: "" };

export async function readNaming(): Promise<Naming> {
  const found = v.safeParse(CaptionSchema, await (await db()).get("settings", KEY));
  return found.success ? found.output : NOBODY;
}
export async function keepNaming(naming: Naming): Promise<void> {
  const checked = v.parse(CaptionSchema, naming);
  await exclusively(async () => (await db()).put("settings", checked, KEY));
}
