import * as v from "valibot";
import { range } from "../../core/math/range";
import type { RecipeKind } from "../recipe/kinds";

/** Values of other settings, by `step.key`. */
type OtherValues = Readonly<Record<string, readonly unknown[]>>;
/**
 * When a setting has an effect: for these kinds, while other settings have one of some values, and
 * none of others.
 */
export interface Condition {
  kinds?: readonly RecipeKind[];
  settings?: OtherValues;
  unless?: OtherValues;
}

/** What is told of any setting, once for the controls, the command line, the docs and errors. */
interface Described {
  /** as it stands before its control */
  label: string;
  /** one line: what it does */
  help: string;
  when?: Condition;
  /** what its change is called in the history, if not by its label */
  change?: string;
}
/** Defaults of some kinds of stacks, where they are others. */
interface Defaults<T> {
  default: T;
  defaultOf?: Partial<Record<RecipeKind, T>>;
}

export interface NumberField extends Described, Defaults<number> {
  type: "number";
  schema: v.GenericSchema<number>;
  min: number;
  max: number;
  /** ends of its slider, where those are narrower than what is allowed */
  usual: readonly [number, number];
  step: number;
  /** as it is shown: the value times `times`, with so many digits and a unit */
  unit: string;
  times: number;
  digits: number;
  signed: boolean;
  /** only whole numbers are allowed */
  whole: boolean;
}
export interface ChoiceOption<T extends string = string> {
  value: T;
  text: string;
  /** the kinds that know it, if not all do */
  kinds?: readonly RecipeKind[];
  /** it is offered on screen only where it is set */
  rare?: boolean;
}
export interface ChoiceField<T extends string = string> extends Described, Defaults<T> {
  type: "choice";
  schema: v.GenericSchema<T>;
  options: readonly ChoiceOption<T>[];
}
export interface TextField extends Described, Defaults<string> {
  type: "text";
  schema: v.GenericSchema<string>;
  longest: number;
}
/** What has a control of its own: drawn on the picture, or taken from a list. */
export interface DataField<S extends v.GenericSchema = v.GenericSchema>
  extends Described, Defaults<v.InferOutput<S>> {
  type: "data";
  schema: S;
}
/** Settings that belong together under one name; each is set as `step.group.key`. */
export interface GroupField<F extends Fields = Fields> extends Described, Defaults<Values<F>> {
  type: "group";
  fields: F;
  schema: v.GenericSchema<Values<F>>;
}
export type Field = NumberField | ChoiceField | TextField | DataField | GroupField;

type WithUsual = "usual" | "unit" | "times" | "digits" | "signed" | "whole";

/** A number within bounds. */
export function number(
  field: Omit<NumberField, "type" | "schema" | WithUsual> & Partial<Pick<NumberField, WithUsual>>,
): NumberField {
  const within = range(field.min, field.max);
  return {
    usual: [field.min, field.max],
    unit: "",
    times: 1,
    digits: 0,
    signed: false,
    whole: false,
    ...field,
    type: "number",
    schema: field.whole ? v.pipe(within, v.integer()) : within,
  };
}

/** A share, set and shown in percent. */
export const percent = (
  field: Omit<Parameters<typeof number>[0], "unit" | "times" | "step"> & { step?: number },
): NumberField => number({ step: 0.01, ...field, unit: "%", times: 100 });

/** Stops of exposure. */
export const stops = (
  field: Omit<Parameters<typeof number>[0], "unit" | "step" | "digits" | "signed">,
): NumberField => number({ ...field, unit: "EV", step: 0.05, digits: 2, signed: true });

/** One of a few. */
export function choice<const T extends string>(
  field: Omit<ChoiceField<T>, "type" | "schema" | "default" | "defaultOf"> & Defaults<NoInfer<T>>,
): ChoiceField<T> {
  const values = field.options.map((option) => option.value) as [T, ...T[]];
  return { ...field, type: "choice", schema: v.picklist(values) };
}

/** A line of text. */
export const text = (field: Omit<TextField, "type" | "schema">): TextField => ({
  ...field,
  type: "text",
  schema: v.pipe(v.string(), v.maxLength(field.longest)),
});

/** What a schema alone describes. */
export const data = <S extends v.GenericSchema>(
  field: Omit<DataField<S>, "type">,
): DataField<S> => ({ ...field, type: "data" });

export interface Fields {
  readonly [key: string]: Field;
}
export type Values<F extends Fields> = { -readonly [K in keyof F]: v.InferOutput<F[K]["schema"]> };
/** A step's settings: each described, and all of them as a schema with defaults. */
export interface Settings<F extends Fields> {
  fields: F;
  schema: v.GenericSchema<Values<F>>;
  defaults: Values<F>;
}

/** Several settings under one name. */
export function group<const F extends Fields>(field: Described & { fields: F }): GroupField<F> {
  const { schema, defaults } = settingsOf(field.fields);
  return { ...field, type: "group", schema, default: defaults };
}

/** Makes a step's settings of the descriptions of each. */
export function settingsOf<const F extends Fields>(fields: F): Settings<F> {
  const each = <T>(of: (field: Field) => T): Record<string, T> =>
    Object.fromEntries(Object.entries(fields).map(([key, field]) => [key, of(field)]));
  return {
    fields,
    schema: v.object(each((field) => field.schema)) as unknown as v.GenericSchema<Values<F>>,
    defaults: each((field): unknown => field.default) as Values<F>,
  };
}
