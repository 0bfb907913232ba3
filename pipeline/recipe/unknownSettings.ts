import { STEPS, type StepName } from "../registry";

const OF_THE_RECIPE = ["version", "kind"];

/**
 * Settings of a recipe from outside that nobody knows, as `step.key`; a section that nobody knows by
 * its own settings. What is no recipe at all has none: its form is refused elsewhere.
 */
export function unknownSettings(data: unknown): string[] {
  if (typeof data !== "object" || data === null) return [];
  return Object.entries(data).flatMap(([section, settings]) => {
    if (OF_THE_RECIPE.includes(section)) return [];
    const keys = typeof settings === "object" && settings !== null ? Object.keys(settings) : [];
    if (!Object.hasOwn(STEPS, section))
      return keys.length ? keys.map((key) => `${section}.${key}`) : [section];
    const known = STEPS[section as StepName].settings.defaults;
    return keys.filter((key) => !Object.hasOwn(known, key)).map((key) => `${section}.${key}`);
  });
}
