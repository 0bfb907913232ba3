import { STEP_NAMES, STEPS, type StepName } from "../registry";
import type { Field, Fields, GroupField } from "./fields";
import { valuesSaid, whenSaid } from "./words";

/** One setting as lists tell of it. */
export interface SettingLine {
  /** `step.key`, or `step.group.key` */
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

/** The names of settings, those of a group by `group.key`. */
type NamesOf<F extends Fields> = {
  [K in keyof F & string]: F[K] extends GroupField<infer G> ? `${K}.${keyof G & string}` : K;
}[keyof F & string];

/** `step.key` of every setting there is, and `step.group.key` of those in a group. */
export type SettingName = {
  [S in StepName]: `${S}.${NamesOf<(typeof STEPS)[S]["settings"]["fields"]>}`;
}[StepName];

/** The settings of a step with their descriptions. */
export const fieldsOf = (step: StepName): Fields => STEPS[step].settings.fields;

/** The description of a setting by its name; undefined where there is none. */
export function fieldNamed(name: string): Field | undefined {
  const [step, ...keys] = name.split(".");
  if (!Object.hasOwn(STEPS, step!)) return undefined;
  let fields: Fields = fieldsOf(step as StepName);
  let found: Field | undefined;
  for (const key of keys) {
    found = Object.hasOwn(fields, key) ? fields[key] : undefined;
    if (!found) return undefined;
    fields = found.type === "group" ? found.fields : {};
  }
  return found;
}

/** Fields by their names, a group as its own. */
const flattened = (fields: Fields, before: string): [string, Field][] =>
  Object.entries(fields).flatMap(([key, field]): [string, Field][] =>
    field.type === "group"
      ? flattened(field.fields, `${before}.${key}`)
      : [[`${before}.${key}`, field]],
  );

/** All settings of all steps, in the order of the stem. */
export const settingLines = (): { step: StepName; lines: SettingLine[] }[] =>
  STEP_NAMES.map((step) => ({
    step,
    lines: flattened(fieldsOf(step), step).map(([name, field]) => ({
      name,
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

/** The names of all settings. */
export const settingNames = (): string[] =>
  settingLines().flatMap(({ lines }) => lines.map(({ name }) => name));
