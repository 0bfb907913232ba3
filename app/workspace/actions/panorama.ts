import { directionAt } from "../../../core/panorama/canvas/projection";
import { draggedTo } from "../../../core/panorama/level/straighten";
import type { RecipeKind } from "../../../pipeline/recipe/kinds";
import type { SessionState } from "../../work/sessionState";
import { tieList } from "../dialogs/tieList";
import { partakingNow } from "../state/partaking";
import type { Workspace } from "../state/workspace";

/** No two frames were found to show the same: ties set manually may hold them. */
export const isUnplaced = (kind: RecipeKind, { error }: Pick<SessionState, "error">): boolean =>
  kind === "panorama" && error?.code === "no-overlap";

/**
 * Opens the ties, of two frames or of the pair that fits worst, unless a frame that has no place
 * yet wants one.
 */
export function showTies(workspace: Workspace, pair?: readonly [number, number]): void {
  const { view, session, recipe } = workspace;
  const { layout } = session.state;
  const frames = partakingNow(workspace);
  if ((!layout && !isUnplaced(recipe().kind, session.state)) || frames.length < 2) return;
  const open = (shown: readonly [number, number]): void =>
    view.setState({ dialog: { kind: "ties", pair: shown } });
  const lone = layout?.leftOut[0];
  const [worst] = tieList(layout, frames, []);
  if (pair) open(pair);
  else if (lone !== undefined) open([lone > 0 ? lone - 1 : 1, lone]);
  else open(worst ? [worst.a, worst.b] : [0, 1]);
}

/**
 * A place that was taken and let go elsewhere on the map, in shares of the picture, takes the whole
 * view along.
 */
export function turnView(
  { session, recipe, edit }: Workspace,
  [x0, y0]: readonly [number, number],
  [x1, y1]: readonly [number, number],
): void {
  const { layout, size } = session.state;
  if (!layout) return;
  const from = directionAt(layout.canvas, x0 * size.width, y0 * size.height);
  const to = directionAt(layout.canvas, x1 * size.width, y1 * size.height);
  if (!from || !to) return;
  const now = recipe();
  if (now.kind !== "panorama") return;
  const { yaw, pitch, roll } = draggedTo(now.panorama, from, to);
  edit.keep({ ...now, panorama: { ...now.panorama, yaw, pitch, roll } }, "Drag the view");
}
