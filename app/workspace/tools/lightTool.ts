import type { LocalWhite } from "../../../core/colour/localWhite";
import type { Workspace } from "../state/workspace";
import { strokeTool, type Stroke, type StrokeOptions } from "./strokeTool";
import type { Tool } from "./tool";

const STROKES: Record<LocalWhite["shape"], StrokeOptions["shape"]> = {
  outline: "outline",
  brush: "brush",
  gradient: "line",
};
/** Width of the border over which the light changes, in shares of the picture's width. */
const BORDER = 0.02;

/** An area in another light, which gets a white balance of its own. */
export const lightTool =
  (shape: LocalWhite["shape"]) =>
  (workspace: Workspace): Tool => {
    const { view, session, edit } = workspace;
    const radius = (): number => (shape === "brush" ? view.getState().brush : 0);
    const keepLight = (points: Stroke): void => {
      const recipe = workspace.recipe();
      const { temperature, tint, local } = recipe.prepare;
      view.setState({ tool: undefined });
      const light: LocalWhite = {
        id: crypto.randomUUID(),
        on: true,
        shape,
        points: shape === "gradient" ? [points[0]!, points.at(-1)!] : points,
        radius: radius(),
        soft: shape === "gradient" ? 0 : BORDER,
        temperature,
        tint,
      };
      edit.keep(
        { ...recipe, prepare: { ...recipe.prepare, local: [...local, light] } },
        "Part in another light",
      );
    };
    return strokeTool({
      shape: STROKES[shape],
      radius,
      size: () => session.state.size,
      done: keepLight,
    });
  };
