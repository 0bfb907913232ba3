import type { Part } from "../../../core/panorama/seams/masks";
import type { Area } from "../picture/area";
import type { Workspace } from "../state/workspace";

/** Width of the border over which a patch is blended, in shares of the picture's width. */
const PATCH_BORDER = 0.006;

/** What was drawn is decided on, or dropped. */
export const dropArea = ({ view }: Workspace): void =>
  view.setState({ area: undefined, tool: undefined, plate: undefined });

/** Gives an area of the picture to one frame. */
export function giveTo({ recipe, record, edit, view }: Workspace, frame: string, area: Area): void {
  const now = recipe();
  if (now.kind === "panorama") return;
  const name = record().frames.find((f) => f.id === frame)?.info.name ?? "";
  const patch = { ...area, id: crypto.randomUUID(), frame, on: true, soft: PATCH_BORDER };
  edit.keep(
    { ...now, ghosts: { patches: [...now.ghosts.patches, patch] } },
    now.kind === "focus" ? `Retouch from ${name}` : `Ghost patch from ${name}`,
  );
  view.setState({ area: undefined });
}

/** Hides parts of a panorama's frames. */
export function hide(
  workspace: Workspace,
  parts: readonly (Part & { frame: string })[],
  label: string,
): void {
  const recipe = workspace.recipe();
  if (recipe.kind !== "panorama") return;
  const masks = parts.map((part) => ({ ...part, id: crypto.randomUUID(), on: true }));
  workspace.edit.keep(
    {
      ...recipe,
      panorama: { ...recipe.panorama, masks: [...recipe.panorama.masks, ...masks] },
    },
    label,
  );
  dropArea(workspace);
}
