import { applyLook } from "../../../pipeline/looks/applyLook";
import { MOST_AMOUNT, type Look } from "../../../pipeline/looks/look";
import { AS_IT_IS, triedLooks } from "../../looks/tried";
import type { Workspace } from "../state/workspace";
import { changeTakes, type TakeHands } from "./takes";

/** How far one step of a key goes. */
const STEP = 0.05;

/** Begins or ends trying looks on. */
export const toggleTrying = ({ view }: Workspace): void =>
  view.setState(({ trying }) => ({
    trying: trying ? undefined : { chosen: AS_IT_IS, amounts: {}, numbers: {} },
    tool: undefined,
  }));

/** Chooses the look so many places further on. */
export function stepLook({ view, record }: Workspace, by: number): void {
  view.setState(({ trying }) => {
    if (!trying) return {};
    const tried = triedLooks(record().looks, trying.amounts);
    const at = tried.findIndex(({ id }) => id === trying.chosen);
    const next = tried[Math.min(tried.length - 1, Math.max(0, at + by))]!;
    return { trying: { ...trying, chosen: next.id } };
  });
}

/** Sets how far a look goes. */
export function setAmount({ view }: Workspace, id: string, amount: number): void {
  view.setState(({ trying }) => {
    if (!trying || id === AS_IT_IS) return {};
    const to = Math.min(MOST_AMOUNT, Math.max(0, amount));
    return { trying: { ...trying, amounts: { ...trying.amounts, [id]: to } } };
  });
}

/** Makes the chosen look go further, or less far, by steps. */
export function stepAmount(workspace: Workspace, steps: number): void {
  const { trying } = workspace.view.getState();
  if (!trying) return;
  const now = trying.amounts[trying.chosen] ?? 1;
  setAmount(workspace, trying.chosen, Math.round((now + steps * STEP) * 100) / 100);
}

/** The look that is chosen, and how far it goes. */
function chosenLook({ view, record }: Workspace): { look: Look; amount: number } | undefined {
  const { trying } = view.getState();
  const found = trying && record().looks.find(({ id }) => id === trying.chosen);
  return found && { look: found.look, amount: trying.amounts[found.id] ?? 1 };
}

/** Applies the chosen look to the take that is open, and ends trying. */
export function applyChosen(workspace: Workspace): void {
  const chosen = chosenLook(workspace);
  workspace.view.setState({ trying: undefined });
  if (!chosen) return;
  const { look, amount } = chosen;
  workspace.edit.keep(applyLook(workspace.recipe(), look, amount), `Look: ${look.name}`);
}

/** Keeps the chosen look as a take of its own, and ends trying. */
export async function applyAsNewTake(hands: TakeHands): Promise<void> {
  const { workspace } = hands;
  const chosen = chosenLook(workspace);
  if (!chosen) return;
  workspace.view.setState({ trying: undefined });
  const { look, amount } = chosen;
  await changeTakes(hands, {
    intent: "new take",
    beside: workspace.record().take.id,
    name: look.name,
    recipe: applyLook(workspace.recipe(), look, amount),
  });
}
