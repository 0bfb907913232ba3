import { useMemo } from "react";
import type { MaskStyle } from "../../../core/finish/paintMask";
import type { KeptPart } from "../../../pipeline/finish/partSchema";
import { finishStep } from "../../../pipeline/finish/step";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { partOf, recipeWithout } from "../actions/parts";
import { useRecipe, useView } from "./workspace";

/** The recipe whose picture is seen: without a part or all of the finish while a key is held. */
export function useShownRecipe(): Recipe {
  const recipe = useRecipe();
  const without = useView((view) => view.without);
  const part = useView((view) => view.part);
  return useMemo(
    () => recipeWithout(recipe, without, part, finishStep.settings.defaults),
    [recipe, without, part],
  );
}

/** The part whose mask is seen over the picture, and how; none while the finish is not open. */
export function useShownMask(): { part: KeptPart; style: MaskStyle } | undefined {
  const recipe = useRecipe();
  const id = useView((view) => (view.open === "finish" ? view.part : undefined));
  const style = useView((view) => view.mask);
  const part = partOf(recipe, id);
  // a mask is found anew only where its shapes change
  const shape = part && JSON.stringify([part.shapes, part.inverted, part.feather]);
  return useMemo(
    () => (part && style ? { part, style } : undefined),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- by what the mask is made of
    [shape, style],
  );
}
