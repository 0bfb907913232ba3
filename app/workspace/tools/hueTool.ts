import { luminance } from "../../../core/colour/luminance";
import type { HueRange } from "../../../core/finish/adjustments";
import { hueBetween, hueOf, oklab } from "../../../core/finish/oklab";
import { clamp } from "../../../core/math/clamp";
import { adjustmentsOf, withAdjustments } from "../actions/parts";
import type { Workspace } from "../state/workspace";
import type { PointerPlace, Tool } from "./tool";

/** Screen px over which a drag goes from nothing to all. */
const FULL_PX = 220;
/** A range that is begun on the picture reaches so far, degrees; one this near is moved on. */
const REACH = 30;
const SAME = 18;
/** Chroma under which a place has no hue. */
const LEAST_CHROMA = 0.012;

/**
 * A colour of the picture is taken hold of: up and down makes its hues lighter and darker, across
 * stronger and weaker.
 */
export function hueTool(workspace: Workspace): Tool {
  const { view, session, edit } = workspace;
  let start: { at: PointerPlace; range: HueRange; others: readonly HueRange[] } | undefined;
  let last: PointerPlace | undefined;

  const begin = async (at: PointerPlace): Promise<void> => {
    const rgb = await session.sample(at.x, at.y, 3);
    const y = rgb && luminance(...rgb);
    const [, a, b] = rgb && y ? oklab([rgb[0] / y, rgb[1] / y, rgb[2] / y]) : [0, 0, 0];
    if (Math.hypot(a, b) < LEAST_CHROMA) {
      view.setState({ note: "That place is grey; drag on something that has a colour." });
      return;
    }
    const hue = hueOf(a, b);
    const { hues } = adjustmentsOf(workspace.recipe(), view.getState().part);
    const known = hues.find((range) => Math.abs(hueBetween(range.hue, hue)) < SAME);
    const range = known ?? {
      hue: Math.round(hue),
      reach: REACH,
      turn: 0,
      saturation: 0,
      lightness: 0,
    };
    start = { at, range, others: hues.filter((other) => other !== known) };
    if (last) edit.show(moved(last));
  };
  const moved = (to: PointerPlace) => {
    const { at, range, others } = start!;
    const zoom = to.zoom / FULL_PX;
    const next: HueRange = {
      ...range,
      saturation: clamp(range.saturation + (to.x - at.x) * zoom, -1, 1),
      lightness: clamp(range.lightness - (to.y - at.y) * zoom, -1, 1),
    };
    return withAdjustments(workspace.recipe(), view.getState().part, { hues: [...others, next] });
  };
  const drop = (): void => {
    start = undefined;
    last = undefined;
  };
  return {
    pointer: {
      down: (at) => void begin(at),
      move: (at) => {
        last = at;
        if (start) edit.show(moved(at));
      },
      up: (at) => {
        if (start) edit.keep(moved(at), "Hues of the picture");
        drop();
      },
      cancel: drop,
    },
    leave: drop,
  };
}
