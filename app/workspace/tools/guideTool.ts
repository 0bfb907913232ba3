import { apply, transpose } from "../../../core/math/matrix3";
import { directionAt } from "../../../core/panorama/canvas/projection";
import type { Guide } from "../../../core/panorama/level/straighten";
import type { PanoramaRecipe } from "../../../pipeline/recipe/recipe";
import { addFrameGuides } from "../actions/straighten";
import type { Workspace } from "../state/workspace";
import { strokeTool, type Stroke } from "./strokeTool";
import type { Tool } from "./tool";

const LABELS = {
  level: "Level line",
  vertical: "Vertical line",
  straight: "Straight line",
} as const;

/** A line of a panorama is kept by directions, so that it holds in every projection. */
function keepDirections(
  { session, edit }: Workspace,
  now: PanoramaRecipe,
  kind: Guide["kind"],
  ends: Stroke,
): void {
  const { layout, size } = session.state;
  if (!layout) return;
  const [from, to] = ends.map(([x, y]) => {
    const direction = directionAt(layout.canvas, x * size.width, y * size.height);
    return direction && (apply(transpose(layout.turned), direction) as Guide["from"]);
  });
  if (!from || !to) return;
  const guides = [...now.panorama.guides, { kind, from, to }];
  edit.keep({ ...now, panorama: { ...now.panorama, guides } }, LABELS[kind]);
}

/** A line along something level, vertical or straight. */
export const guideTool =
  (kind: Guide["kind"]) =>
  (workspace: Workspace): Tool => {
    const { view, session } = workspace;
    const keepGuide = (points: Stroke): void => {
      const ends: Stroke = [points[0]!, points.at(-1)!];
      view.setState({ tool: undefined });
      const recipe = workspace.recipe();
      if (recipe.kind === "panorama") keepDirections(workspace, recipe, kind, ends);
      else if (kind !== "straight")
        addFrameGuides(workspace, [{ kind, from: ends[0]!, to: ends[1]! }], LABELS[kind]);
    };
    return strokeTool({ shape: "line", size: () => session.state.size, done: keepGuide });
  };
