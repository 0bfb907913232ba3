import { clamp } from "../../../core/math/clamp";
import { withAdjustments } from "../actions/parts";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

/** The centre of a part's vignette is put where the pointer is, and dragged. */
export function vignetteTool(workspace: Workspace): Tool {
  const { view, session, edit } = workspace;
  let isDragging = false;
  const at = ({ x, y }: PointerPlace) => {
    const { width, height } = session.state.size;
    return withAdjustments(workspace.recipe(), view.getState().part, {
      vignetteX: clamp(x / width, 0, 1),
      vignetteY: clamp(y / height, 0, 1),
    });
  };
  return {
    pointer: {
      down: (place) => {
        isDragging = true;
        edit.show(at(place));
      },
      move: (place) => {
        if (isDragging) edit.show(at(place));
      },
      up: (place) => {
        if (isDragging) edit.keep(at(place), "Centre of the vignette");
        isDragging = false;
      },
      cancel: () => {
        isDragging = false;
      },
    },
  };
}
