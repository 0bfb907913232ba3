import type { Adjustments } from "../../../../core/finish/adjustments";
import { REST } from "../../../../core/finish/adjustments";
import { isAtRest } from "../../../../core/finish/finish";
import {
  ADJUSTMENT_GROUPS,
  ADJUSTMENT_GROUP_NAMES,
  type AdjustmentGroup,
} from "../../../../pipeline/finish/adjustmentFields";
import { activeParts, withoutGroups, type FinishSettings } from "../../../../pipeline/finish/step";
import type { Field } from "../../../../pipeline/settings/fields";
import { counted, signed } from "../../../ui/format";

/** Adjustments that only say how another one works, and are not spoken of by themselves. */
const HOW: ReadonlySet<string> = new Set([
  "pivot",
  "slopeDirection",
  "darksHue",
  "middleHue",
  "lightsHue",
  "monochromeWeights",
  "sharpeningRadius",
  "sharpeningEdges",
  "glowThreshold",
  "glowRadius",
  "vignetteX",
  "vignetteY",
  "vignetteSize",
  "vignetteRoundness",
  "vignetteFeather",
  "fringeReach",
]);
/** Adjustments said of a group at most; the rest are counted. */
const MOST_SAID = 2;

const isSet = (set: Adjustments, key: string): boolean => {
  const value = set[key as keyof Adjustments];
  return JSON.stringify(value) !== JSON.stringify(REST[key as keyof Adjustments]);
};

/** The adjustments of a group that are set, by their keys. */
export const setInGroup = (set: Adjustments, group: AdjustmentGroup): string[] =>
  Object.keys(ADJUSTMENT_GROUPS[group].fields).filter((key) => !HOW.has(key) && isSet(set, key));

/** One adjustment and its value, as a sentence names it. */
function said(field: Field, value: unknown): string {
  const label = field.label.toLowerCase();
  if (field.type !== "number") return label;
  const number = (value as number) * field.times;
  const text = field.signed
    ? signed(number, field.digits)
    : String(Number(number.toFixed(field.digits)));
  return `${label} ${text}`;
}

/** What a group of adjustments does. */
export function groupSaid(set: Adjustments, group: AdjustmentGroup): string {
  const keys = setInGroup(set, group);
  if (!keys.length) return "nothing set";
  const fields: Readonly<Record<string, Field>> = ADJUSTMENT_GROUPS[group].fields;
  const first = keys
    .slice(0, MOST_SAID)
    .map((key) => said(fields[key]!, set[key as keyof Adjustments]));
  const more = keys.length - MOST_SAID;
  return [...first, ...(more > 0 ? [`${more} more`] : [])].join(", ");
}

/** What the finish does, in a sentence. */
export function finishSaid(finish: FinishSettings): string {
  const active = activeParts(finish);
  if (!active.length) return "Nothing set";
  const whole = withoutGroups(finish.whole, finish.off);
  const groups = ADJUSTMENT_GROUP_NAMES.filter((group) => setInGroup(whole, group).length);
  const names = groups.map((group) => ADJUSTMENT_GROUPS[group].name.toLowerCase());
  const parts = active.filter(({ part }) => part).length;
  const pieces = [
    ...(isAtRest(whole) ? [] : [names.slice(0, 3).join(", ")]),
    ...(parts ? [counted(parts, "part")] : []),
  ];
  const sentence = pieces.join("; ");
  return sentence.charAt(0).toUpperCase() + sentence.slice(1);
}
