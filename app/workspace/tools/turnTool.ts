import { clamp } from "../../../core/math/clamp";
import { straightenFields } from "../../../pipeline/straighten/settings";
import { focalOf } from "../../../pipeline/straighten/straightening";
import { keepStraightened } from "../actions/straighten";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

const DEGREES = 180 / Math.PI;
const tenths = (degrees: number): number => Math.round(degrees * 10) / 10;
/** An angle as far as its setting allows, in its steps. */
const within = (key: "roll" | "pitch" | "yaw", degrees: number): number =>
  clamp(tenths(degrees), straightenFields[key].min, straightenFields[key].max);

/**
 * A drag that turns the picture: round its middle, or to the side and up. How a panorama's view will
 * look is drawn over the picture in any case while it changes, and takes the pointer there.
 */
export const turnTool =
  (how: "turn" | "roll") =>
  (workspace: Workspace): Tool =>
    workspace.recipe().kind === "panorama" ? {} : turnPicture(how, workspace);

function turnPicture(how: "turn" | "roll", workspace: Workspace): Tool {
  const { session, view, recipe, record } = workspace;
  let from: PointerPlace | undefined;
  const turned = (to: PointerPlace) => {
    const { edges } = recipe();
    const { width, height } = session.state.size;
    if (how === "roll") {
      const angleOf = ({ x, y }: PointerPlace): number => Math.atan2(y - height / 2, x - width / 2);
      const by = (angleOf(to) - angleOf(from!)) * DEGREES;
      const nearest = ((((by + 180) % 360) + 360) % 360) - 180;
      return { roll: within("roll", edges.roll + nearest) };
    }
    const { info } = record().frames[session.state.aligned?.reference ?? 0]!;
    const { focalPx } = focalOf(edges, info);
    const degrees = (px: number): number => Math.atan(px / focalPx) * DEGREES;
    return {
      yaw: within("yaw", edges.yaw + degrees(to.x - from!.x)),
      pitch: within("pitch", edges.pitch - degrees(to.y - from!.y)),
    };
  };
  const drop = (): void => {
    from = undefined;
    view.setState({ turning: undefined });
  };
  return {
    pointer: {
      down: (at) => {
        from = at;
      },
      move: (at) => {
        if (from) view.setState({ turning: turned(at) });
      },
      up: (at) => {
        if (!from) return;
        const to = turned(at);
        from = undefined;
        keepStraightened(workspace, to, how === "roll" ? "Roll" : "Turn the picture");
      },
      cancel: drop,
    },
    leave: drop,
  };
}
