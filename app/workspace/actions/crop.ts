import type { Rectangle } from "../../../core/raster/largestRectangle";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { sharesOf } from "../picture/cropShape";
import type { Size } from "../picture/viewport";
import type { Workspace } from "../state/workspace";

/** A recipe that keeps a part of its picture. @param size  of the picture, px */
export const cropTo = (recipe: Recipe, region: Rectangle, size: Size): Recipe => ({
  ...recipe,
  edges: { ...recipe.edges, part: sharesOf(region, size) },
});

/** Keeps other settings of the edges. */
export function keepEdges(
  { recipe, edit }: Workspace,
  part: Partial<Recipe["edges"]>,
  label: string,
): void {
  const now = recipe();
  edit.keep({ ...now, edges: { ...now.edges, ...part } }, label);
}

/** Keeps a part of the picture. @param region  in px of the full-size picture */
export const keepCrop = (workspace: Workspace, region: Rectangle): void =>
  keepEdges(workspace, { part: sharesOf(region, workspace.session.state.size) }, "Crop");
