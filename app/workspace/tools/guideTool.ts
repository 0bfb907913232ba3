import { apply, transpose } from "../../../core/math/matrix3";
import { directionAt } from "../../../core/panorama/canvas/projection";
import type { Guide } from "../../../core/panorama/level/straighten";
import type { Workspace } from "../state/workspace";
import { strokeTool, type Stroke } from "./strokeTool";
import type { Tool } from "./tool";

const LABELS = {
  level: "Level line",
  vertical: "Vertical line",
  straight: "Straight line",
} as const;

/**
 * A line along something level, vertical or straight. It is kept by the directions in which its
 * ends lie, so that it holds in every projection.
 */
export const guideTool =
  (kind: Guide["kind"]) =>
  (workspace: Workspace): Tool => {
    const { view, session, edit } = workspace;
    const keepGuide = (points: Stroke): void => {
      const { layout, size } = session.state;
      view.setState({ tool: undefined });
      if (!layout) return;
      const [from, to] = [points[0]!, points.at(-1)!].map(([x, y]) => {
        const direction = directionAt(layout.canvas, x * size.width, y * size.height);
        return direction && (apply(transpose(layout.turned), direction) as Guide["from"]);
      });
      if (!from || !to) return;
      const recipe = workspace.recipe();
      const guides = [...recipe.panorama.guides, { kind, from, to }];
      edit.keep({ ...recipe, panorama: { ...recipe.panorama, guides } }, LABELS[kind]);
    };
    return strokeTool({ shape: "line", size: () => session.state.size, done: keepGuide });
  };
