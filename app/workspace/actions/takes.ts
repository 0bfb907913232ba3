import type { NavigateFunction } from "react-router";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { runIntent, type Intent } from "../state/action";
import type { View } from "../state/view";
import type { Workspace } from "../state/workspace";

/** What takes are done with: the open stack, and the way to its screen. */
export interface TakeHands {
  workspace: Workspace;
  navigate: NavigateFunction;
}

const pathOf = ({ record }: Workspace, take?: string): string => {
  const { shoot, stack } = record();
  return `/shoots/${shoot.id}/${stack.id}${take ? `?take=${take}` : ""}`;
};

/** Opens another take of the stack; its merge is the same as long as its steps agree. */
export function openTake({ workspace, navigate }: TakeHands, take: string): void {
  if (take !== workspace.record().take.id)
    void navigate(pathOf(workspace, take), { replace: true });
}

/** Does something to the takes, then shows the one that is open after it. */
export async function changeTakes(
  { workspace, navigate }: TakeHands,
  intent: Intent,
  openAfter?: string,
): Promise<void> {
  const { shoot, stack, take } = workspace.record();
  const { failed, made } = await runIntent({ shoot: shoot.id, stack: stack.id }, intent);
  if (failed) workspace.view.setState({ note: failed });
  await navigate(pathOf(workspace, made ?? openAfter ?? take.id), { replace: true });
}

/** What the open take was, where it was changed since it was opened or last confirmed. */
export function changedSince(
  opened: View["opened"],
  take: string,
  recipe: Recipe,
): Recipe | undefined {
  const was = opened[take];
  return JSON.stringify(was) === JSON.stringify(recipe) ? undefined : was;
}

/** Begins a take with the recipe as it is on screen, or with the settings a stack begins with. */
export function newTake(hands: TakeHands, from: "this" | "default"): Promise<void> {
  const { workspace } = hands;
  const { take } = workspace.record();
  return changeTakes(hands, {
    intent: "new take",
    beside: take.id,
    name: from === "this" ? `${take.name} again` : "From default",
    ...(from === "this" ? { recipe: workspace.recipe() } : {}),
  });
}

/** Keeps what was changed as a take of its own; this one goes back to what it was. */
export function keepAsNew(hands: TakeHands): Promise<void> {
  const { workspace } = hands;
  const { take } = workspace.record();
  const { opened } = workspace.view.getState();
  const was = changedSince(opened, take.id, workspace.recipe());
  return changeTakes(hands, {
    intent: "new take",
    beside: take.id,
    name: `${take.name} again`,
    recipe: workspace.recipe(),
    ...(was ? { restoredTo: was } : {}),
  });
}

/** Confirms what was changed: it is what this take goes back to from now on. */
export function updateTake({ record, recipe, view }: Workspace): void {
  view.setState(({ opened }) => ({ opened: { ...opened, [record().take.id]: recipe() } }));
}

/** Opens the take at a place of the list, counted from 1. */
export function openTakeAt(hands: TakeHands, place: number): void {
  const take = hands.workspace.record().takes[place - 1];
  if (take) openTake(hands, take.id);
}

/** Lays the open take beside others. */
export function compareTakes({ workspace, navigate }: TakeHands): void {
  const { shoot, stack, take } = workspace.record();
  void navigate(`/shoots/${shoot.id}/${stack.id}/compare?take=${take.id}`);
}
