import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { range } from "../../core/math/range";
import { ZONES } from "../../core/tone/toneField";
import { ADJUSTMENT_FIELDS } from "../finish/adjustmentFields";
import { PartSchema } from "../finish/partSchema";

/** What a file of a look says it is. */
export const LOOK_FORMAT = "rhizome look";
export const LOOK_VERSION = 1;
/** Amounts go this far: one and a half times what the look was made with. */
export const MOST_AMOUNT = 1.5;

/** Shapes that find themselves in any picture: only parts of these can be in a look. */
const FINDS_ITSELF: readonly string[] = ["tones", "colours", "sample", "sky"];

const adjustments = Object.fromEntries(
  Object.entries(ADJUSTMENT_FIELDS).map(([key, field]) => [key, field.schema]),
) as { [K in keyof typeof ADJUSTMENT_FIELDS]: (typeof ADJUSTMENT_FIELDS)[K]["schema"] };

const LookPartSchema = v.pipe(
  PartSchema,
  v.check((part) => fitsLook(part), "a part of a look is made of tones, colours, samples or sky"),
);

/** Whether a part can go into a look. */
export const fitsLook = ({ shapes }: { shapes: readonly { type: string }[] }): boolean =>
  shapes.every(({ type }) => FINDS_ITSELF.includes(type));

/** Tone, finish and parts under a name: only what it sets. */
export const LookSchema = v.strictObject({
  format: v.literal(LOOK_FORMAT),
  version: v.literal(LOOK_VERSION),
  name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80)),
  note: v.optional(v.pipe(v.string(), v.maxLength(200)), ""),
  tone: v.optional(
    v.strictObject({
      strength: v.optional(range(0, 1)),
      detail: v.optional(range(-1, 1)),
      lifts: v.optional(v.pipe(v.array(range(-4, 4)), v.length(ZONES))),
      white: v.optional(range(-3, 3)),
      black: v.optional(range(-3, 3)),
    }),
    {},
  ),
  finish: v.optional(v.partial(v.strictObject(adjustments)), {}),
  parts: v.optional(v.pipe(v.array(LookPartSchema), v.maxLength(20)), []),
});
export type Look = v.InferOutput<typeof LookSchema>;

/**
 * Reads a look that came from outside.
 *
 * @param from  the file or place that an error names
 * @throws RhizomeError `look-invalid`, naming what is wrong
 */
export function parseLook(data: unknown, from: string): Look {
  const read = v.safeParse(LookSchema, data);
  if (read.success) return read.output;
  const [issue] = read.issues;
  const path = v.getDotPath(issue);
  throw new RhizomeError(
    "look-invalid",
    `${from} is no look that can be read: ${path ? `${path}: ` : ""}${issue.message}.`,
    "bring in a file that was handed out as a look",
  );
}

/** The same from a file's text. @throws RhizomeError `look-invalid` */
export function readLook(text: string, from: string): Look {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new RhizomeError(
      "look-invalid",
      `${from} is no JSON.`,
      "bring in a file that was handed out as a look",
    );
  }
  return parseLook(data, from);
}

/** A look as it is handed out. */
export const lookText = (look: Look): string => `${JSON.stringify(look, null, 2)}\n`;
