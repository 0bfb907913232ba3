import { clamp } from "../../../core/math/clamp";
import { focalOf } from "../../../pipeline/straighten/straightening";
import { keepStraightened } from "../actions/straighten";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

const DEGREES = 180 / Math.PI;
const tenths = (degrees: number): number => Math.round(degrees * 10) / 10;
/** As far as pictures are turned by hand, degrees. */
const MOST = { roll: 45, pitch: 30, yaw: 40 };

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
      return { roll: clamp(tenths(edges.roll + nearest), -MOST.roll, MOST.roll) };
    }
    const { info } = record().frames[session.state.aligned?.reference ?? 0]!;
    const { focalPx } = focalOf(edges, info);
    const degrees = (px: number): number => Math.atan(px / focalPx) * DEGREES;
    return {
      yaw: clamp(tenths(edges.yaw + degrees(to.x - from!.x)), -MOST.yaw, MOST.yaw),
      pitch: clamp(tenths(edges.pitch - degrees(to.y - from!.y)), -MOST.pitch, MOST.pitch),
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
