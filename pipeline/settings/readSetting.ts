import * as v from "valibot";
import type { Field } from "./fields";

/** The ways in which a text may be meant, the plainest first. */
const readings = (text: string): unknown[] => [
  ...asJson(text),
  text,
  ...(text.trim() === "" ? [[]] : [Number(text), text.split(",").map(Number), text.split(",")]),
];

function asJson(text: string): unknown[] {
  if (!/^\s*[[{]/.test(text)) return [];
  try {
    return [JSON.parse(text)];
  } catch {
    return [];
  }
}

/**
 * A setting's value as somebody wrote it: a name, a number, numbers or names with commas between
 * them, or JSON; the first that the setting takes. @returns undefined where it takes none of them
 */
export function readSetting(field: Field, text: string): { value: unknown } | undefined {
  for (const reading of readings(text)) {
    const read = v.safeParse(field.schema as v.GenericSchema, reading);
    if (read.success) return { value: read.output };
  }
  return undefined;
}
