import type { KeptRepair } from "../../../pipeline/retouch/repairSchema";
import {
  addRepair,
  deleteRepair,
  middleOf,
  movedShape,
  sourceShown,
  withRepair,
} from "../actions/repairs";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { Workspace } from "../state/workspace";
import { strokeTool, type Stroke } from "./strokeTool";
import type { PointerPlace, Tool } from "./tool";

/** What of the repair that is shown is being dragged, and where the drag began, in shares. */
interface Drag {
  what: "source" | "place";
  index: number;
  from: readonly [number, number];
  recipe: Recipe;
  moved: boolean;
}

/** A mark is hit within so many screen px of its middle, at least. */
const HIT_PX = 12;
/** A drag shorter than this is a click, screen px. */
const CLICK_PX = 4;
/** Keys move a source by so many px, with Shift by more. */
const STEP_PX = 1;
const LONG_STEP_PX = 10;
const LEAST_RADIUS = 0.0003;
const MOST_RADIUS = 0.25;

const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The shape that a stroke of the brush, or a line round a place, makes. */
export function shapeOfStroke(
  drawn: "brush" | "outline",
  points: Stroke,
  brush: number,
  { width, height }: { width: number; height: number },
): KeptRepair["shape"] {
  if (drawn === "outline") return { type: "outline", points: thinned(points) };
  const radius = Math.min(
    MOST_RADIUS,
    Math.max(LEAST_RADIUS, (brush * width) / Math.max(width, height)),
  );
  const [x, y] = points[0]!;
  return points.length === 1
    ? { type: "spot", x, y, radius }
    : { type: "stroke", points: thinned(points), radius };
}

/** A shape is told well by so many points. */
const MOST_POINTS = 240;
function thinned(points: Stroke): Stroke {
  const step = Math.ceil(points.length / MOST_POINTS);
  return points.filter((_, i) => i % step === 0 || i === points.length - 1);
}

/**
 * Puts places right: a click or a stroke, or a line drawn round; on the repair that is shown, moves
 * it or where it takes from; on another, shows that one.
 */
export const repairTool =
  (drawn: "brush" | "outline") =>
  (workspace: Workspace): Tool => {
    const { view, session, edit } = workspace;
    const stroke = strokeTool({
      shape: drawn,
      radius: () => view.getState().repairBrush,
      size: () => session.state.size,
      done: (points) =>
        addRepair(
          workspace,
          shapeOfStroke(drawn, points, view.getState().repairBrush, session.state.size),
        ),
    });
    let drag: Drag | undefined;
    const shareOf = ({ x, y }: PointerPlace): [number, number] => {
      const { width, height } = session.state.size;
      return [x / width, y / height];
    };
    const changed = ({ what, index, from, recipe }: Drag, to: readonly [number, number]) => {
      const { shape, source } = recipe.retouch.repairs[index]!;
      const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
      if (what === "place")
        return withRepair(recipe, index, {
          shape: movedShape(shape, dx, dy),
          ...(source ? { source: { dx: source.dx - dx, dy: source.dy - dy } } : {}),
        });
      const [x, y] = middleOf(shape);
      return withRepair(recipe, index, { source: { dx: to[0] - x, dy: to[1] - y } });
    };
    const moveSource = (dx: number, dy: number): void => {
      const index = view.getState().repair;
      const source = index === undefined ? undefined : sourceShown(workspace, index);
      if (index === undefined || !source) return;
      const { width, height } = session.state.size;
      const moved = { dx: source.dx + dx / width, dy: source.dy + dy / height };
      edit.keep(withRepair(workspace.recipe(), index, { source: moved }), "Source of a repair");
    };
    return {
      ...stroke,
      pointer: {
        down(at) {
          const hit = hitBy(workspace, at);
          if (!hit) return stroke.pointer!.down(at);
          drag = { ...hit, from: shareOf(at), recipe: workspace.recipe(), moved: false };
          view.setState({ repair: hit.index });
        },
        move(at) {
          if (!drag) return stroke.pointer!.move(at);
          const { width, height } = session.state.size;
          const [x, y] = shareOf(at);
          const [fx, fy] = drag.from;
          drag.moved ||= Math.hypot((x - fx) * width, (y - fy) * height) * at.zoom > CLICK_PX;
          if (drag.moved) edit.show(changed(drag, [x, y]));
        },
        up(at) {
          if (!drag) return stroke.pointer!.up(at);
          const { moved, what } = drag;
          if (moved)
            edit.keep(
              changed(drag, shareOf(at)),
              what === "source" ? "Source of a repair" : "Move a repair",
            );
          drag = undefined;
        },
        cancel() {
          if (!drag) return stroke.pointer!.cancel();
          edit.show(drag.recipe);
          drag = undefined;
        },
      },
      keys: {
        Enter() {
          const { viewport, repairBrush } = view.getState();
          const { size } = session.state;
          const middle: Stroke = [[viewport.cx / size.width, viewport.cy / size.height]];
          if (drawn === "brush")
            addRepair(workspace, shapeOfStroke("brush", middle, repairBrush, size));
        },
        Delete() {
          const { repair } = view.getState();
          if (repair !== undefined) deleteRepair(workspace, repair);
        },
        ...Object.fromEntries(
          Object.entries(ARROWS).flatMap(([key, [dx, dy]]) => [
            [key, () => moveSource(dx * STEP_PX, dy * STEP_PX)],
            [`Shift+${key}`, () => moveSource(dx * LONG_STEP_PX, dy * LONG_STEP_PX)],
          ]),
        ),
      },
    };
  };

/** What of the repairs lies under the pointer: the source of the one shown first. */
function hitBy(workspace: Workspace, at: PointerPlace): Pick<Drag, "what" | "index"> | undefined {
  const { repairs } = workspace.recipe().retouch;
  const { width, height } = workspace.session.state.size;
  const shown = workspace.view.getState().repair;
  const near = ([x, y]: readonly [number, number], radius: number): boolean =>
    Math.hypot(x * width - at.x, y * height - at.y) < Math.max(HIT_PX / at.zoom, radius);
  const radiusOf = (shape: KeptRepair["shape"]): number =>
    shape.type === "spot" ? shape.radius * Math.max(width, height) : 0;
  if (shown !== undefined && repairs[shown]) {
    const { shape } = repairs[shown];
    const source = sourceShown(workspace, shown);
    const [x, y] = middleOf(shape);
    if (source && near([x + source.dx, y + source.dy], radiusOf(shape)))
      return { what: "source", index: shown };
    if (near([x, y], radiusOf(shape))) return { what: "place", index: shown };
  }
  const index = repairs.findLastIndex(({ shape }) => near(middleOf(shape), radiusOf(shape)));
  return index < 0 ? undefined : { what: "place", index };
}
