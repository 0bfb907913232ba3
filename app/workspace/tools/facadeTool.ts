import { clamp } from "../../../core/math/clamp";
import { addFrameGuides } from "../actions/straighten";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

type Corner = [number, number];

/** Corners round their middle, from the upper left one clockwise. */
export function clockwise(corners: readonly Corner[]): Corner[] {
  const mean = (axis: 0 | 1): number =>
    corners.reduce((sum, corner) => sum + corner[axis], 0) / corners.length;
  const [x, y] = [mean(0), mean(1)];
  const round = [...corners].sort(
    (a, b) => Math.atan2(a[1] - y, a[0] - x) - Math.atan2(b[1] - y, b[0] - x),
  );
  const sums = round.map(([u, v]) => u - x + (v - y));
  const first = sums.indexOf(Math.min(...sums));
  return [...round.slice(first), ...round.slice(0, first)];
}

/**
 * Four corners of something that is a rectangle in reality, such as a facade or a window: its sides
 * become two level and two vertical lines.
 */
export function facadeTool(workspace: Workspace): Tool {
  const { view, session } = workspace;
  let corners: Corner[] = [];
  const cornerAt = ({ x, y }: PointerPlace): Corner => {
    const { width, height } = session.state.size;
    return [clamp(x / width, 0, 1), clamp(y / height, 0, 1)];
  };
  const drop = (): void => {
    corners = [];
  };
  const done = (): void => {
    const [a, b, c, d] = clockwise(corners) as [Corner, Corner, Corner, Corner];
    drop();
    view.setState({ tool: undefined });
    addFrameGuides(
      workspace,
      [
        { kind: "level", from: a, to: b },
        { kind: "vertical", from: b, to: c },
        { kind: "level", from: d, to: c },
        { kind: "vertical", from: a, to: d },
      ],
      "Facade",
    );
  };
  return {
    pointer: {
      down: (at) => {
        corners = [...corners, cornerAt(at)];
      },
      move: (at) => {
        if (corners.length) corners = [...corners.slice(0, -1), cornerAt(at)];
      },
      up: () => {
        if (corners.length === 4) done();
      },
      cancel: () => {
        corners = corners.slice(0, -1);
      },
    },
    keys: {
      Backspace: () => {
        corners = corners.slice(0, -1);
      },
    },
    draw: () =>
      corners.length ? { stroke: { shape: "outline", radius: 0, points: corners } } : {},
    leave: drop,
  };
}
