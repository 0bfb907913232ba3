import { ADJUSTMENT_GROUPS, ADJUSTMENT_GROUP_NAMES } from "../../pipeline/finish/adjustmentFields";
import { fitsLook } from "../../pipeline/looks/look";
import type { FinishSettings } from "../../pipeline/finish/step";

/**
 * A finish with that of another applied: the whole picture's adjustments, or some groups of them.
 * Parts that find themselves in any picture go with all of it; those that are drawn belong to their
 * own picture.
 *
 * @param parts  what of a recipe is applied: `finish`, or groups by their names
 */
export function withFinishOf(
  own: FinishSettings,
  source: FinishSettings,
  parts: readonly string[],
): FinishSettings {
  if (parts.includes("finish")) {
    const moving = source.parts.filter(fitsLook);
    const ids = new Set(moving.map(({ id }) => id));
    return {
      whole: source.whole,
      off: source.off,
      parts: [...own.parts.filter(({ id }) => !ids.has(id)), ...moving],
    };
  }
  const groups = ADJUSTMENT_GROUP_NAMES.filter((group) => parts.includes(group));
  const keys = groups.flatMap((group) => Object.keys(ADJUSTMENT_GROUPS[group].fields));
  const taken = keys.map((key) => [key, source.whole[key as keyof FinishSettings["whole"]]]);
  return { ...own, whole: { ...own.whole, ...Object.fromEntries(taken) } };
}
