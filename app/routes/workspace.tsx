import { forAnyView, parseRecipe } from "../../pipeline/recipe/recipe";
import { change, historyOf, inTurn, step } from "../store/changes";
import { readStack } from "../store/shoots";
import { recoverUnsaved } from "../store/unsaved";
import { useMemo } from "react";
import { WorkspaceProvider } from "../workspace/state/WorkspaceProvider";
import { WorkspaceScreen } from "../workspace/WorkspaceScreen";
import type { Route } from "./+types/workspace";

export async function clientLoader({ params }: Route.ClientLoaderArgs) {
  const data = await readStack(params.shoot, params.stack);
  const recovered = recoverUnsaved(data.take.id, data.take.recipe);
  if (recovered) {
    const take = { ...data.take, recipe: recovered };
    await inTurn(() =>
      change(params.shoot, "Change the recipe", [{ store: "takes", value: take }]),
    );
    data.take = take;
  }
  return {
    data,
    history: await historyOf(params.shoot),
  };
}

export const clientAction = ({ request, params }: Route.ClientActionArgs) =>
  inTurn(async () => {
    const body =
      ((await request.json().catch(() => undefined)) as
        { intent?: string; recipe?: unknown; label?: string } | undefined) ?? {};
    if (body.intent === "undo" || body.intent === "redo")
      return { done: await step(params.shoot, body.intent) };
    const { take, stack } = await readStack(params.shoot, params.stack);
    if (body.intent === "accept") {
      const key = String((body as { key?: unknown }).key ?? "");
      const accepted = stack.accepted.includes(key)
        ? stack.accepted.filter((k) => k !== key)
        : [...stack.accepted, key];
      await change(params.shoot, "Accept a suspect", [
        { store: "stacks", value: { ...stack, accepted } },
      ]);
      return null;
    }
    if (body.intent === "prepare") {
      const {
        shoot: { id, name, createdAt, prepare: was },
      } = await readStack(params.shoot, params.stack);
      const prepare = forAnyView(take.recipe);
      const own = JSON.stringify(was) === JSON.stringify(prepare);
      await change(params.shoot, own ? "No settings for new stacks" : "Settings for new stacks", [
        { store: "shoots", value: { id, name, createdAt, ...(own ? {} : { prepare }) } },
      ]);
      return null;
    }
    await change(params.shoot, String(body.label ?? "Change the recipe").slice(0, 80), [
      { store: "takes", value: { ...take, recipe: parseRecipe(body.recipe) } },
    ]);
    return null;
  });

/** One stack at work; another stack, or one that frames are still coming to, is opened anew. */
export default function Workspace({ loaderData: { data, history } }: Route.ComponentProps) {
  const record = useMemo(() => ({ ...data, history }), [data, history]);
  const opened = [data.stack.id, ...data.frames.map((frame) => frame.id)].join(" ");
  return (
    <WorkspaceProvider key={opened} record={record}>
      <WorkspaceScreen />
    </WorkspaceProvider>
  );
}
