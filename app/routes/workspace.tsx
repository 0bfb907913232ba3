import { useMemo } from "react";
import { historyOf } from "../store/changes";
import { readLooks } from "../store/looks";
import { patchesBetween } from "../store/patches";
import { readStack } from "../store/shoots";
import { recoverUnsaved } from "../store/unsaved";
import { runIntent } from "../workspace/state/action";
import { WorkspaceProvider } from "../workspace/state/WorkspaceProvider";
import { WorkspaceScreen } from "../workspace/WorkspaceScreen";
import type { Route } from "./+types/workspace";

export async function clientLoader({ params, request }: Route.ClientLoaderArgs) {
  const opened = new URL(request.url).searchParams.get("take") ?? undefined;
  const data = await readStack(params.shoot, params.stack, opened);
  const recovered = recoverUnsaved(data.take.id, data.take.recipe);
  if (recovered) {
    const { forth } = patchesBetween(data.take.recipe, recovered);
    const { failed } = await runIntent(params, {
      intent: "recipe",
      take: data.take.id,
      patches: forth,
      label: "Change the recipe",
    });
    if (!failed) data.take = { ...data.take, recipe: recovered };
  }
  const [history, { looks }] = await Promise.all([historyOf(params.shoot), readLooks()]);
  return { data, history, looks };
}

export const clientAction = async ({ request, params }: Route.ClientActionArgs) =>
  runIntent(params, await request.json().catch(() => undefined));

/** One stack at work; another one, or one whose frames or files came meanwhile, is opened anew. */
export default function Workspace({ loaderData: { data, history, looks } }: Route.ComponentProps) {
  const record = useMemo(() => ({ ...data, history, looks }), [data, history, looks]);
  const frames = data.frames.map((frame) => frame.id);
  // files of the disk may be read from now on
  const opened = [data.stack.id, ...frames, data.originals.size].join(" ");
  return (
    <WorkspaceProvider key={opened} record={record}>
      <WorkspaceScreen />
    </WorkspaceProvider>
  );
}
