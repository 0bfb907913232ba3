import { balanceFromNeutral } from "../../../core/colour/whiteBalance";
import { clamp } from "../../../core/math/clamp";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

/** Radius of the place whose mean is taken for neutral, px of the merge one works on. */
const RADIUS_PX = 3;

/** A click on something grey or white sets the white balance, of the picture or of one area. */
export function pickTool(workspace: Workspace): Tool {
  const { view, session, edit } = workspace;
  const pick = async ({ x, y }: PointerPlace): Promise<void> => {
    const rgb = await session.sample(x, y, RADIUS_PX);
    const found = rgb && balanceFromNeutral(rgb);
    if (!found) {
      view.setState({
        note: "That place is black; pick a grey or white that has light on it.",
      });
      return;
    }
    const { pickFor } = view.getState();
    view.setState({ note: undefined, tool: undefined });
    const white = {
      temperature: clamp(found.temperature, 2000, 15000),
      tint: clamp(found.tint, -100, 100),
    };
    const recipe = workspace.recipe();
    const { prepare } = recipe;
    const local = prepare.local.map((area) => (area.id === pickFor ? { ...area, ...white } : area));
    edit.keep(
      { ...recipe, prepare: pickFor ? { ...prepare, local } : { ...prepare, ...white } },
      "Pick a neutral",
    );
  };
  const nothing = (): void => undefined;
  return {
    pointer: { down: (at) => void pick(at), move: nothing, up: nothing, cancel: nothing },
    leave: () => view.setState({ pickFor: undefined }),
  };
}
