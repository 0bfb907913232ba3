import { giveTo } from "../actions/areas";
import type { Workspace } from "../state/workspace";
import { strokeTool } from "./strokeTool";
import type { Tool } from "./tool";

/**
 * An area is outlined or painted over; it goes to the frame that one retouches from, or else waits
 * to be given to one.
 */
export const areaTool =
  (shape: "outline" | "brush") =>
  (workspace: Workspace): Tool => {
    const { view, session, record } = workspace;
    const radius = (): number => (shape === "brush" ? view.getState().brush : 0);
    return strokeTool({
      shape,
      radius,
      size: () => session.state.size,
      done: (points) => {
        const area = { shape, points, radius: radius() };
        const { retouchFrom } = view.getState();
        const source = workspace.recipe().kind === "focus" ? retouchFrom : undefined;
        const frame = source === undefined ? undefined : record().frames[source];
        if (frame) giveTo(workspace, frame.id, area);
        else view.setState({ area });
      },
    });
  };
