import { hasStep } from "../kindSteps";
import { STEPS, type StepName } from "../registry";
import { isMerged } from "./kinds";
import { STEPS_BY_KIND } from "./recipe";
import type { Fields } from "../settings/fields";

const OF_THE_RECIPE = ["version", "kind"];

/**
 * Settings of a recipe from outside that nobody knows, as `step.key`; a section that nobody knows by
 * its own settings. What is no recipe at all has none: its form is refused elsewhere.
 */
export function unknownSettings(data: unknown): string[] {
  if (typeof data !== "object" || data === null) return [];
  return Object.entries(data).flatMap(([section, settings]) => {
    if (OF_THE_RECIPE.includes(section)) return [];
    const isSection = typeof settings === "object" && settings !== null;
    const keys = isSection ? Object.keys(settings as object) : [];
    if (!Object.hasOwn(STEPS, section) || isOfAnotherKind(data, section as StepName))
      return keys.length ? keys.map((key) => `${section}.${key}`) : [section];
    if (!isSection) return [];
    const { fields } = STEPS[section as StepName].settings;
    return unknownIn(settings as object, fields, section);
  });
}

/** Whether a recipe's kind has no such step; older recipes had the steps of all kinds. */
function isOfAnotherKind(data: object, step: StepName): boolean {
  const { version, kind } = data as { version?: unknown; kind?: unknown };
  if (typeof kind !== "string" || !isMerged(kind)) return false;
  return !(Number(version) < STEPS_BY_KIND) && !hasStep(kind, step);
}

/** Keys of settings that no field has, those of groups too. */
function unknownIn(settings: object, fields: Fields, before: string): string[] {
  return Object.entries(settings).flatMap(([key, value]) => {
    const name = `${before}.${key}`;
    if (!Object.hasOwn(fields, key)) return [name];
    const field = fields[key]!;
    const isGroup = field.type === "group" && typeof value === "object" && value !== null;
    return isGroup ? unknownIn(value as object, field.fields, name) : [];
  });
}
