import { comparedNow } from "../state/shownFrame";
import type { Workspace } from "../state/workspace";
import type { MapKind } from "../../../core/maps/maps";
import type { RecipeKind } from "../../../pipeline/recipe/kinds";
import { settle, zoomAt } from "../picture/viewport";
import { partakingNow } from "../state/partaking";
import { stepOfTool } from "../tools/stepOfTool";
import type { ToolName } from "../tools/tool";

/** What maps a merge of each kind leaves. */
export const MAPS_OF: Readonly<Record<RecipeKind, readonly MapKind[]>> = {
  bracket: ["sources", "moving", "disagreement", "noise"],
  panorama: ["sources", "seams"],
  focus: ["sources"],
};

/** Shows the whole picture, or so many screen px for one of its own, round the middle. */
export function zoomTo({ view, session }: Workspace, zoom: number | "fit"): void {
  const { size } = session.state;
  view.setState(({ viewport, box }) => ({
    viewport:
      zoom === "fit"
        ? settle({ zoom: "fit", cx: 0, cy: 0 }, size, box)
        : zoomAt(viewport, size, box, { x: box.width / 2, y: box.height / 2 }, zoom),
  }));
}

/** Compares the merge with another frame, so many places further on. */
export function compareNext(workspace: Workspace, by: number): void {
  const { frames } = workspace.record();
  const next = (comparedNow(workspace) + by + frames.length) % frames.length;
  workspace.view.setState(({ pinned }) => ({
    before: next,
    ...(pinned === undefined ? {} : { pinned: next }),
  }));
}

/** Shows a frame in place of the merge; the same one once more puts it away. */
export function pinFrame({ view }: Workspace, frame: number): void {
  view.setState(({ pinned }) => ({
    pinned: pinned === frame ? undefined : frame,
    before: frame,
  }));
}

/** Looks at a frame: a panorama's on its map, others in place of the picture. */
export function lookAtFrame(workspace: Workspace, frame: number): void {
  if (workspace.recipe().kind !== "panorama") {
    pinFrame(workspace, frame);
    return;
  }
  const { id } = workspace.record().frames[frame]!;
  const plate = partakingNow(workspace).findIndex((f) => f.id === id);
  workspace.view.setState({ plate: plate < 0 ? undefined : plate });
}

/** Shows a map, or puts it away; nothing where a kind of stack has none of it. */
export function toggleMap({ view, recipe }: Workspace, kind: MapKind): void {
  if (MAPS_OF[recipe().kind].includes(kind))
    view.setState(({ map }) => ({ map: map === kind ? undefined : kind }));
}

/** Takes up a tool and opens the step that it belongs to; the one in hand is put away. */
export function toggleTool({ view, recipe }: Workspace, tool: ToolName): void {
  const inHand = view.getState().tool === tool;
  view.setState({
    area: undefined,
    tool: inHand ? undefined : tool,
    ...(inHand ? {} : { open: stepOfTool(tool, recipe().kind) }),
  });
}
