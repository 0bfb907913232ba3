import type { Recipe } from "../../../pipeline/recipe/recipe";

/** How a control changes the recipe. */
export interface Edit {
  /** shown at once */
  show: (r: Recipe) => void;
  /** kept, and can be undone */
  keep: (r: Recipe, label: string) => void;
}
