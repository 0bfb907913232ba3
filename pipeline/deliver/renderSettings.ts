import type { RenderSettings } from "../../core/tone/renderStrip";
import { prepareStep } from "../prepare/step";
import type { Recipe } from "../recipe/recipe";

/** How a recipe's picture is rendered, but for its finish. */
export const renderSettings = (
  { prepare, tone }: Pick<Recipe, "prepare" | "tone">,
  space: RenderSettings["space"],
  linear = false,
): RenderSettings => ({ ...prepareStep.run(prepare), exposure: tone.exposure, space, linear });
