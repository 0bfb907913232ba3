import * as v from "valibot";
import { isAtRest } from "../../core/finish/finish";
import type { KeptPart } from "./partSchema";
import { REST, withRest, type Adjustments } from "../../core/finish/adjustments";
import { data, group, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import {
  ADJUSTMENT_FIELDS,
  ADJUSTMENT_GROUPS,
  ADJUSTMENT_GROUP_NAMES,
  type AdjustmentGroup,
} from "./adjustmentFields";
import { GroupSchema, PartSchema } from "./partSchema";
import { prepareFinish, type FinishInput, type PreparedFinish } from "./prepareFinish";
import type { Pieces } from "./pieces";
import type { RunOptions } from "../../runtime/work";
import type { Work } from "../work";

const settings = settingsOf({
  whole: group({
    label: "Whole picture",
    help: "Adjustments of the whole picture, the first part.",
    fields: ADJUSTMENT_FIELDS,
  }),
  off: data({
    label: "Groups switched off",
    help: "Groups of the whole picture's adjustments that are kept and do nothing.",
    schema: v.pipe(v.array(GroupSchema), v.maxLength(ADJUSTMENT_GROUP_NAMES.length)),
    default: [],
  }),
  parts: data({
    label: "Parts",
    help: "Areas with adjustments of their own, on top of the whole picture's.",
    schema: v.pipe(v.array(PartSchema), v.maxLength(60)),
    default: [],
  }),
});
export type FinishSettings = v.InferOutput<typeof settings.schema>;

/** Adjustments with some groups at rest. */
export const withoutGroups = (
  set: Adjustments,
  groups: readonly AdjustmentGroup[],
): Adjustments => ({
  ...set,
  ...Object.fromEntries(
    groups
      .flatMap((name) => Object.keys(ADJUSTMENT_GROUPS[name].fields))
      .map((key) => [key, REST[key as keyof Adjustments]]),
  ),
});

/** The parts that change something, the whole picture first. */
export function activeParts({ whole, off, parts }: FinishSettings): {
  adjustments: Adjustments;
  amount: number;
  part?: KeptPart;
}[] {
  const others = parts
    .filter((part) => part.on && part.amount > 0)
    .map((part) => ({
      adjustments: withoutGroups(withRest(part.adjustments), part.off),
      amount: part.amount,
      part,
    }));
  return [{ adjustments: withoutGroups(whole, off), amount: 1 }, ...others].filter(
    ({ adjustments }) => !isAtRest(adjustments),
  );
}

/** Light, detail, colour, noise and air after toning, part by part. */
export const finishStep = defineStep({
  settings,
  key: ({ finish }: { finish: FinishSettings }) => finish,
  /**
   * What the renderer needs of the parts that change something; undefined where none does, and then
   * not a byte is changed.
   *
   * @param pieces  where masks, fields and the like are made and kept; they are its to free
   */
  run: (
    work: Work,
    input: FinishInput,
    settings: FinishSettings,
    pieces: Pieces,
    on: Pick<RunOptions, "signal" | "priority"> = {},
  ): Promise<PreparedFinish | undefined> =>
    prepareFinish(work, input, activeParts(settings), pieces, on),
});
