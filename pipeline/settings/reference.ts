import { STEP_NAMES, STEPS, type StepName } from "../registry";
import type { Field } from "./fields";
import { valuesSaid, whenSaid } from "./words";

/** One setting as lists tell of it. */
export interface SettingLine {
  /** `step.key` */
  name: string;
  label: string;
  help: string;
  values: string;
  unit: string;
  /** when it has an effect; empty where it always has */
  when: string;
  /** as JSON, by kind where they differ */
  defaults: string;
}

/** `step.key` of every setting there is. */
export type SettingName = {
  [S in StepName]: `${S}.${keyof (typeof STEPS)[S]["settings"]["fields"] & string}`;
}[StepName];

/** The settings of a step with their descriptions. */
export const fieldsOf = (step: StepName): Readonly<Record<string, Field>> =>
  STEPS[step].settings.fields;

/** The description of a setting by `step.key`; undefined where there is none. */
export function fieldNamed(name: string): Field | undefined {
  const [step, key] = name.split(".");
  if (!Object.hasOwn(STEPS, step!)) return undefined;
  const fields = fieldsOf(step as StepName);
  return Object.hasOwn(fields, key!) ? fields[key!] : undefined;
}

/** All settings of all steps, in the order of the stem. */
export const settingLines = (): { step: StepName; lines: SettingLine[] }[] =>
  STEP_NAMES.map((step) => ({
    step,
    lines: Object.entries(fieldsOf(step)).map(([key, field]) => ({
      name: `${step}.${key}`,
      label: field.label,
      help: field.help,
      values: valuesSaid(field),
      unit: field.type === "number" && field.times === 1 ? field.unit : "",
      when: whenSaid(field.when),
      defaults: defaultsSaid(field),
    })),
  }));

function defaultsSaid(field: Field): string {
  const others = Object.entries(field.defaultOf ?? {}).map(
    ([kind, value]) => `${kind}: ${JSON.stringify(value)}`,
  );
  return [JSON.stringify(field.default), ...others].join("; ");
}
