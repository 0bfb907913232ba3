import { IDENTITY, invert, multiply, project, type Matrix3 } from "../../../core/math/matrix3";
import type { Upright } from "../../../core/straighten/findUpright";
import type { FrameGuide } from "../../../core/straighten/guidedTurn";
import { carryShapes, hasShapes } from "../../../pipeline/straighten/carryShapes";
import { asksForUpright, isStraightened } from "../../../pipeline/straighten/settings";
import { straighteningOf } from "../../../pipeline/straighten/straightening";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { Workspace } from "../state/workspace";

type Edges = Recipe["edges"];

/** How the shown picture lies on its reference frame: its px to the frame's. */
export const shownPlace = ({ session }: Pick<Workspace, "session">): Matrix3 =>
  session.state.aligned?.straightening?.fromPicture ?? IDENTITY;

/**
 * How the picture will lie on its reference frame with settings; undefined where that is not known
 * before its edges were asked.
 */
export function placeWith(
  { session, record }: Pick<Workspace, "session" | "record">,
  edges: Edges,
  found: Upright | undefined = session.state.aligned?.straightening?.upright,
): Matrix3 | undefined {
  const { aligned } = session.state;
  if (!aligned || (asksForUpright(edges) && !found)) return undefined;
  const { info } = record().frames[aligned.reference]!;
  return straighteningOf(edges, info, found)?.fromPicture ?? IDENTITY;
}

/**
 * Keeps how a picture is set upright: what was drawn on it goes along, and once it is turned it is
 * cropped to what is full.
 *
 * @param found  what its edges say, where they were asked
 */
export function keepStraightened(
  workspace: Workspace,
  part: Partial<Edges>,
  label: string,
  found?: Upright,
): void {
  const { session, edit, view } = workspace;
  const now = workspace.recipe();
  const edges = { ...now.edges, ...part };
  const isFirstTurn = isStraightened(edges) && !isStraightened(now.edges);
  const cropped =
    isFirstTurn && now.edges.mode === "keep" ? { ...edges, mode: "crop" as const } : edges;
  const place = placeWith(workspace, cropped, found);
  const carried =
    place && hasShapes(now)
      ? carryShapes(now, multiply(invert(place), shownPlace(workspace)), session.state.size)
      : now;
  edit.keep({ ...carried, edges: cropped }, label);
  view.setState({ turning: undefined, note: undefined });
}

/** Sets a picture upright by its edges, as far as is said; where they say nothing that is told. */
export async function setUpright(workspace: Workspace, upright: Edges["upright"]): Promise<void> {
  const { session, view } = workspace;
  const label = upright === "off" ? "Upright off" : "Upright";
  const now = workspace.recipe();
  const edges = { ...now.edges, upright };
  if (!asksForUpright(edges)) {
    keepStraightened(workspace, { upright }, label);
    return;
  }
  view.setState({ note: undefined });
  const found = await session.askEdges(now);
  if (found) keepStraightened(workspace, { upright }, label, found);
  else
    view.setState({
      note: "Too few edges of this picture say what is vertical. Draw a line along something vertical or level.",
    });
}

type Point = readonly [number, number];
type Session = Pick<Workspace, "session">;

function mapped({ session }: Session, mapping: Matrix3, [x, y]: Point): [number, number] {
  const { width, height } = session.state.size;
  const [u, v] = project(mapping, x * width, y * height);
  return [u / width, v / height];
}

/** Where a place of the shown picture lies on its reference frame, in shares of both. */
export const onFrame = (workspace: Session, point: Point): [number, number] =>
  mapped(workspace, shownPlace(workspace), point);

/** Where a place of the reference frame is shown in the picture, in shares of both. */
export const onPicture = (workspace: Session, point: Point): [number, number] =>
  mapped(workspace, invert(shownPlace(workspace)), point);

/** Adds lines that are level or vertical, by their ends in shares of the shown picture. */
export function addFrameGuides(
  workspace: Workspace,
  drawn: readonly FrameGuide[],
  label: string,
): void {
  const guides = drawn.map(({ kind, from, to }) => ({
    kind,
    from: onFrame(workspace, from),
    to: onFrame(workspace, to),
  }));
  const { edges } = workspace.recipe();
  keepStraightened(workspace, { guides: [...edges.guides, ...guides] }, label);
}
