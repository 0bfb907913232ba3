import { hueOf, oklab } from "../../../core/finish/oklab";
import type { PartShape } from "../../../core/finish/part";
import { clamp } from "../../../core/math/clamp";
import { addShape } from "../actions/parts";
import type { Workspace } from "../state/workspace";
import { strokeTool, type Stroke, type StrokeOptions } from "./strokeTool";
import type { PointerPlace, Tool } from "./tool";

type Drawn = "outline" | "brush" | "gradient" | "ellipse";
type Picked = "tones" | "colours" | "sample";

const STROKES: Record<Drawn, StrokeOptions["shape"]> = {
  outline: "outline",
  brush: "brush",
  gradient: "line",
  ellipse: "line",
};

/** EV to either side of the tone that is picked, and over which a range fades. */
const TONES_EV = 0.8;
const FADE_EV = 0.7;
/** Degrees to either side of a hue that is picked. */
const HUE_REACH = 28;
/** Reach of a sample, in shares of the picture's width. */
const SAMPLE_REACH = 0.25;
/** A drag shorter than this makes a shape of a usual size round the place, share of the width. */
const LEAST_DRAG = 0.004;

/** The shape that a stroke draws. */
function shapeOf(type: Drawn, points: Stroke, workspace: Workspace): PartShape {
  const { view, session } = workspace;
  const { brush, stroke } = view.getState();
  const { width, height } = session.state.size;
  const [from, to] = [points[0]!, points.at(-1)!];
  switch (type) {
    case "outline":
      return { type, points };
    case "brush":
      return { type, points, radius: brush, ...stroke };
    case "gradient":
      return { type, from, to };
    case "ellipse": {
      const across = Math.abs(to[0] - from[0]);
      const down = (Math.abs(to[1] - from[1]) * height) / width;
      const isClick = Math.hypot(across, down) < LEAST_DRAG;
      const radii: [number, number] = isClick
        ? [0.12, 0.12]
        : [Math.max(0.005, across), Math.max(0.005, down)];
      return { type, centre: from, radii, angle: 0, feather: 0.5 };
    }
  }
}

/** Shapes of usual size in the middle of what is seen, for those who draw by keys. */
function usualStroke(type: Drawn, { view, session }: Workspace): Stroke {
  const { viewport } = view.getState();
  const { width, height } = session.state.size;
  const [x, y] = [clamp(viewport.cx / width, 0, 1), clamp(viewport.cy / height, 0, 1)];
  if (type === "gradient")
    return [
      [x, Math.max(0, y - 0.25)],
      [x, Math.min(1, y + 0.25)],
    ];
  if (type === "outline")
    return [
      [x - 0.15, y - 0.15],
      [x + 0.15, y - 0.15],
      [x + 0.15, y + 0.15],
      [x - 0.15, y + 0.15],
    ];
  return type === "ellipse"
    ? [
        [x, y],
        [x + 0.15, y + 0.15],
      ]
    : [[x, y]];
}

/** A shape of a part is drawn over the picture; Enter puts one of usual size into the middle. */
export const partTool =
  (type: Drawn) =>
  (workspace: Workspace): Tool => {
    const done = (points: Stroke): void => addShape(workspace, shapeOf(type, points, workspace));
    return {
      ...strokeTool({
        shape: STROKES[type],
        radius: () => (type === "brush" ? workspace.view.getState().brush : 0),
        size: () => workspace.session.state.size,
        done,
      }),
      keys: { Enter: () => done(usualStroke(type, workspace)) },
    };
  };

/** The shape that a click makes of what is seen there; undefined where there is nothing. */
async function pickedShape(
  type: Picked,
  workspace: Workspace,
  at: readonly [number, number],
): Promise<PartShape | undefined> {
  const { session } = workspace;
  const { width, height } = session.state.size;
  const like = await session.likeness(workspace.recipe(), at);
  if (!like) return undefined;
  if (type === "sample") return { type, at: [...at], like, reach: SAMPLE_REACH, tolerance: 1 };
  if (type === "tones")
    return { type, from: like.light - TONES_EV, to: like.light + TONES_EV, fade: FADE_EV };
  const rgb = await session.sample(at[0] * width, at[1] * height, 3);
  if (!rgb) return undefined;
  const [, a, b] = oklab(rgb);
  const chroma = Math.hypot(like.a, like.b);
  return { type, hue: hueOf(a, b), reach: HUE_REACH, least: clamp(chroma * 0.4, 0.005, 0.3) };
}

/** A click takes what is seen there, and the part is what is like it. */
export const pickPartTool =
  (type: Picked) =>
  (workspace: Workspace): Tool => {
    const { view, session } = workspace;
    const pick = async (at: readonly [number, number]): Promise<void> => {
      const shape = await pickedShape(type, workspace, at);
      if (shape) addShape(workspace, shape);
      else
        view.setState({ note: "Nothing is merged there yet; try again when the merge is done." });
    };
    const shareOf = ({ x, y }: PointerPlace): [number, number] => {
      const { width, height } = session.state.size;
      return [clamp(x / width, 0, 1), clamp(y / height, 0, 1)];
    };
    const nothing = (): void => undefined;
    return {
      pointer: {
        down: (at) => void pick(shareOf(at)),
        move: nothing,
        up: nothing,
        cancel: nothing,
      },
      keys: { Enter: () => void pick(usualStroke("brush", workspace)[0]!) },
    };
  };
