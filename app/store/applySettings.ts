import { applyLook } from "../../pipeline/looks/applyLook";
import type { Look } from "../../pipeline/looks/look";
import type { AdjustmentGroup } from "../../pipeline/finish/adjustmentFields";
import { forAnyView } from "../../pipeline/recipe/recipe";
import { withFinishOf } from "./applyFinish";
import { withSpotsOf } from "./applySpots";
import type { Put } from "./changes";
import type { Arrangement, Edit } from "./edit";
import type { Shoot, Stack } from "./records";

const nothing: Edit = { label: "", puts: [] };

/** Parts of a recipe that may be applied to other stacks: nothing of it is about single frames. */
export const PARTS = ["prepare", "tone", "finish", "deliver"] as const;
/** Spots that were healed: dust lies in the same place in all that a camera took. */
export const HEALED_SPOTS = "spots";
/** One of them, one group of the whole picture's adjustments, or what was healed. */
export type Part = (typeof PARTS)[number] | AdjustmentGroup | typeof HEALED_SPOTS;

/**
 * Lays parts of one stack's settings on others; toning only on stacks of its own kind, since others
 * begin elsewhere.
 */
export function applySettings(
  a: Arrangement,
  from: Stack,
  stacks: readonly Stack[],
  parts: readonly Part[],
): Edit {
  const source = a.takes.get(from.takeId)?.recipe;
  if (!source) return nothing;
  const puts = stacks
    .filter((s) => s.id !== from.id)
    .flatMap((s): Put[] => {
      const take = a.takes.get(s.takeId);
      if (!take) return [];
      const recipe = {
        ...take.recipe,
        ...(parts.includes("prepare")
          ? { prepare: { ...take.recipe.prepare, ...forAnyView(source) } }
          : {}),
        ...(parts.includes("tone") && take.recipe.kind === source.kind
          ? { tone: source.tone }
          : {}),
        finish: withFinishOf(take.recipe.finish, source.finish, parts),
        ...(parts.includes("deliver") ? { deliver: source.deliver } : {}),
        ...(parts.includes(HEALED_SPOTS)
          ? { retouch: withSpotsOf(take.recipe.retouch, source.retouch) }
          : {}),
      };
      return JSON.stringify(recipe) === JSON.stringify(take.recipe)
        ? []
        : [{ store: "takes", value: { ...take, recipe } }];
    });
  return {
    label: `Settings of ${from.name} on ${puts.length} ${puts.length === 1 ? "stack" : "stacks"}`,
    puts,
  };
}

/** Lays a look over the delivered takes of stacks. */
export function applyLookTo(
  a: Arrangement,
  stacks: readonly Stack[],
  look: Look,
  amount: number,
): Edit {
  const puts = stacks.flatMap((s): Put[] => {
    const take = a.takes.get(s.takeId);
    if (!take) return [];
    const recipe = applyLook(take.recipe, look, amount);
    return JSON.stringify(recipe) === JSON.stringify(take.recipe)
      ? []
      : [{ store: "takes", value: { ...take, recipe } }];
  });
  return {
    label: `${look.name} on ${puts.length} ${puts.length === 1 ? "stack" : "stacks"}`,
    puts,
  };
}

/** Makes new stacks of a shoot, of a kind or of all, begin with a look; without one if not given. */
export function setUsualLook(
  shoot: Shoot,
  kind: keyof NonNullable<Shoot["looks"]>,
  usual: { look: Look; amount: number } | undefined,
): Edit {
  const { [kind]: _was, ...others } = shoot.looks ?? {};
  const looks = usual ? { ...others, [kind]: usual } : others;
  return {
    label: usual ? `New stacks begin with ${usual.look.name}` : "New stacks begin without a look",
    puts: [{ store: "shoots", value: { ...shoot, looks } }],
  };
}
