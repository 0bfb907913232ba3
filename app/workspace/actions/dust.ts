import { RhizomeError } from "../../../core/error";
import type { DustSpot } from "../../../core/frame/preparation";
import { straightenedPlace } from "../../../core/frame/lens";
import { addRepair } from "./repairs";
import { onPicture } from "./straighten";
import { findDust } from "../../work/dustFinder";
import type { Workspace } from "../state/workspace";

/** A stack heals at most so many spots. */
const MOST_SPOTS = 500;

/** What was found is decided on, or looked at no more. */
export const dismissDust = ({ view }: Workspace): void =>
  view.setState({ dust: { frames: 0, busy: false }, tool: undefined });

/** Looks for dust over the scenes of the day, and shows what is likely to be some. */
export async function lookForDust(
  workspace: Workspace,
  step: "prepare" | "retouch" = "prepare",
): Promise<void> {
  const { view, record } = workspace;
  const { shoot, stack, frames, originals } = record();
  view.setState({ dust: { frames: 0, busy: true } });
  try {
    const found = await findDust(shoot.id, stack.id, frames, originals);
    view.setState({
      dust: { ...found, busy: false },
      ...(found.spots.length ? { tool: step === "prepare" ? "dust" : undefined, open: step } : {}),
    });
    if (step === "retouch") showNextDust(workspace);
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

/** Where dust on the sensor is seen in the picture, shares of it. */
function seenAt(workspace: Workspace, spot: DustSpot): [number, number] {
  const { recipe, session } = workspace;
  const { size } = session.state;
  const { x, y } = straightenedPlace(
    recipe().prepare,
    size,
    spot.x * size.width,
    spot.y * size.height,
  );
  return onPicture(workspace, [x / size.width, y / size.height]);
}

/** Moves the picture to the next spot of dust, at 100 %. */
function showNextDust(workspace: Workspace): void {
  const { view, session } = workspace;
  const [next] = view.getState().dust.spots ?? [];
  if (!next) return;
  const [x, y] = seenAt(workspace, next);
  const { width, height } = session.state.size;
  view.setState({ viewport: { zoom: 1, cx: x * width, cy: y * height } });
}

/** The spot that is offered is dust, or is none; the next one is offered. */
export function skipDust(workspace: Workspace): void {
  const { dust } = workspace.view.getState();
  workspace.view.setState({ dust: { ...dust, spots: (dust.spots ?? []).slice(1) } });
  showNextDust(workspace);
}

/** Heals the spot that is offered on the merged picture, and offers the next one. */
export function healNextDust(workspace: Workspace): void {
  const { size } = workspace.session.state;
  const [next] = workspace.view.getState().dust.spots ?? [];
  if (!next) return;
  const [x, y] = seenAt(workspace, next);
  const radius = (next.radius * size.width) / Math.max(size.width, size.height);
  addRepair(workspace, { type: "spot", x, y, radius }, "heal");
  skipDust(workspace);
}
