import { RhizomeError } from "../../../core/error";
import { findDust } from "../../work/dustFinder";
import type { Workspace } from "../state/workspace";

/** A stack heals at most so many spots. */
const MOST_SPOTS = 500;

/** What was found is decided on, or looked at no more. */
export const dismissDust = ({ view }: Workspace): void =>
  view.setState({ dust: { frames: 0, busy: false }, tool: undefined });

/** Looks for dust over the scenes of the day, and shows what is likely to be some. */
export async function lookForDust({ view, record }: Workspace): Promise<void> {
  const { shoot, stack, frames, originals } = record();
  view.setState({ dust: { frames: 0, busy: true } });
  try {
    const found = await findDust(shoot.id, stack.id, frames, originals);
    view.setState({
      dust: { ...found, busy: false },
      ...(found.spots.length ? { tool: "dust", open: "prepare" } : {}),
    });
  } catch (e) {
    view.setState({ dust: { frames: 0, busy: false }, note: RhizomeError.from(e).message });
  }
}

/** Heals what was found, but for what is healed already. */
export function healDust(workspace: Workspace): void {
  const recipe = workspace.recipe();
  const { dust } = recipe.prepare;
  const found = workspace.view.getState().dust.spots ?? [];
  const fresh = found.filter(
    (spot) => !dust.some((other) => Math.hypot(other.x - spot.x, other.y - spot.y) < other.radius),
  );
  workspace.edit.keep(
    { ...recipe, prepare: { ...recipe.prepare, dust: [...dust, ...fresh].slice(0, MOST_SPOTS) } },
    "Heal the dust found",
  );
  dismissDust(workspace);
}
