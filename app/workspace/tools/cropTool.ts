import type { Rectangle } from "../../../core/raster/largestRectangle";
import { ratioOf, swappedRatio } from "../../../pipeline/edges/step";
import { keepSoon } from "../../ui/keepSoon";
import { cropTo, keepCrop, keepEdges } from "../actions/crop";
import { CropOverlay } from "../picture/CropOverlay";
import { dragged } from "../picture/cropShape";
import type { Workspace } from "../state/workspace";
import type { Tool } from "./tool";

const ARROWS = [
  ["ArrowLeft", -1, 0],
  ["ArrowRight", 1, 0],
  ["ArrowUp", 0, -1],
  ["ArrowDown", 0, 1],
] as const;

/** The frame round what is kept: dragged on the picture, moved by the arrow keys. */
export function cropTool(workspace: Workspace): Tool {
  const { session, edit } = workspace;
  const nudged = keepSoon<Rectangle>((region) => keepCrop(workspace, region));
  let unlisten: (() => void) | undefined;
  const nudge = (dx: number, dy: number): void => {
    const recipe = workspace.recipe();
    const { size } = session.state;
    // presses come faster than what they lead to is drawn
    const region = nudged.due() ?? session.keptOf(recipe.edges)?.region;
    if (!region) return;
    const to = dragged(region, { h: 0, v: 0 }, dx, dy, size);
    edit.show(cropTo(recipe, to, size));
    nudged.soon(to);
  };
  const turnRatio = (): void => {
    const { ratio } = workspace.recipe().edges;
    if (ratioOf(workspace.recipe().edges))
      keepEdges(workspace, { ratio: swappedRatio(ratio) }, "Turn the ratio");
  };
  return {
    enter: () => {
      unlisten = nudged.listen();
    },
    leave: () => unlisten?.(),
    keys: {
      ...Object.fromEntries(
        ARROWS.flatMap(([key, dx, dy]) => [
          [key, () => nudge(dx, dy)],
          [`Shift+${key}`, () => nudge(10 * dx, 10 * dy)],
        ]),
      ),
      x: (event) => {
        if (event.shiftKey) turnRatio();
        else workspace.view.setState({ open: undefined });
      },
    },
    Overlay: CropOverlay,
  };
}
