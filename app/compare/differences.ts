import { stepsOf } from "../../pipeline/kindSteps";
import { sectionOf, type Recipe } from "../../pipeline/recipe/recipe";
import type { Fields } from "../../pipeline/settings/fields";
import { fieldsOf } from "../../pipeline/settings/reference";
import { STEP_SCREENS } from "../workspace/steps/steps";

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
/** Settings of a step that are named, before the rest is counted. */
const NAMED = 4;

type Values = Record<string, unknown>;

/** Labels of the settings that differ. */
function labels(fields: Fields, a: Values, b: Values): string[] {
  return Object.entries(fields).flatMap(([key, field]) => {
    if (isSame(a[key], b[key])) return [];
    if (field.type === "group") return labels(field.fields, a[key] as Values, b[key] as Values);
    return [field.label];
  });
}

/** Which steps of two recipes differ, and in what, in words; delivery is no part of the picture. */
export function differencesSaid(a: Recipe, b: Recipe): string[] {
  const steps = stepsOf(a.kind).filter((step) => step !== "deliver" && sectionOf(b, step));
  return steps.flatMap((step) => {
    const found = labels(fieldsOf(step), sectionOf(a, step)!, sectionOf(b, step)!);
    if (!found.length) return [];
    const more = found.length - NAMED;
    const named = found.slice(0, NAMED).join(", ");
    return [`${STEP_SCREENS[step].title(a.kind)}: ${named}${more > 0 ? ` and ${more} more` : ""}`];
  });
}
