import { suspectKey, type Suspect } from "../../../core/suspects/suspect";
import { settle } from "../picture/viewport";
import type { Workspace } from "../state/workspace";
import { showTies } from "./panorama";

/** Looks at a suspect at 100 %, or at none. @param index  its place in their list */
export function goToSuspect({ view, session }: Workspace, index: number | undefined): void {
  const { suspects, size } = session.state;
  const place = index === undefined ? undefined : suspects[index];
  view.setState(({ viewport, box }) => ({
    suspect: index,
    viewport: place
      ? settle(
          { zoom: 1, cx: place.x + place.width / 2, cy: place.y + place.height / 2 },
          size,
          box,
        )
      : viewport,
  }));
}

/** Goes on to the next suspect, or back to the one before. */
export function walkSuspects(workspace: Workspace, by: 1 | -1): void {
  const { suspects } = workspace.session.state;
  if (!suspects.length) return;
  const from = workspace.view.getState().suspect ?? (by > 0 ? -1 : 0);
  goToSuspect(workspace, (from + by + suspects.length) % suspects.length);
}

/** A suspect is right as it is; once more takes that back. */
export const acceptSuspect = ({ submit }: Workspace, suspect: Suspect): void =>
  submit({ intent: "accept", key: suspectKey(suspect) });

/** Opens what mends a suspect: the ties, the edges, or which frame its area is given to. */
export function fixSuspect(workspace: Workspace, suspect: Suspect): void {
  const { view, session } = workspace;
  switch (suspect.kind) {
    case "residual":
    case "thin overlap":
    case "place in doubt":
      showTies(workspace);
      return;
    case "filled":
      view.setState({ open: "edges" });
      return;
    default: {
      const { width, height } = session.state.size;
      const [left, top] = [suspect.x / width, suspect.y / height];
      const right = (suspect.x + suspect.width) / width;
      const bottom = (suspect.y + suspect.height) / height;
      const points: [number, number][] = [
        [left, top],
        [right, top],
        [right, bottom],
        [left, bottom],
      ];
      view.setState({ area: { shape: "outline", points, radius: 0 } });
    }
  }
}
