import type { DustSpot } from "../../../core/frame/preparation";
import { sourceOf } from "../../../core/frame/lens";
import { clamp } from "../../../core/math/clamp";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { onFrame } from "../actions/straighten";
import type { Workspace } from "../state/workspace";
import { strokeTool } from "./strokeTool";
import type { Tool } from "./tool";

/** A spot is hit within so many of its radii. */
const HIT = 1.3;
/** The smallest and largest spot, in shares of the picture's width. */
const RADII = [0.0005, 0.05] as const;

/** Marks a spot of dust to be healed in every frame; on a spot that is marked, takes it back. */
export function dustTool(workspace: Workspace): Tool {
  const { view, session, edit } = workspace;
  const spotAt = (spots: readonly DustSpot[], { x, y }: { x: number; y: number }): number => {
    const { width, height } = session.state.size;
    return spots.findIndex(
      (spot) => Math.hypot(spot.x - x, ((spot.y - y) * height) / width) < spot.radius * HIT,
    );
  };
  const withDust = (recipe: Recipe, dust: DustSpot[]): Recipe => ({
    ...recipe,
    prepare: { ...recipe.prepare, dust },
  });
  const mark = (...point: [number, number]): void => {
    const { size } = session.state;
    const [x, y] = onFrame(workspace, point);
    const recipe = workspace.recipe();
    // kept where it lies on the sensor, whatever the lens's correction moves
    const source = sourceOf(recipe.prepare, size, x * size.width, y * size.height);
    const at = { x: source.x / size.width, y: source.y / size.height };
    const { dust: search, brush } = view.getState();
    const likely = spotAt(search.spots ?? [], at);
    if (likely >= 0) {
      const spots = search.spots!.filter((_, i) => i !== likely);
      view.setState({ dust: { ...search, spots } });
      return;
    }
    const { dust } = recipe.prepare;
    const healed = spotAt(dust, at);
    if (healed >= 0) {
      const rest = dust.filter((_, i) => i !== healed);
      edit.keep(withDust(recipe, rest), "Take back a dust spot");
      return;
    }
    const spot = { x: clamp(at.x, 0, 1), y: clamp(at.y, 0, 1), radius: clamp(brush, ...RADII) };
    edit.keep(withDust(recipe, [...dust, spot]), "Dust spot");
  };
  return strokeTool({
    shape: "brush",
    radius: () => view.getState().brush,
    size: () => session.state.size,
    done: ([first]) => mark(...first!),
  });
}
