import { Button } from "../../ui/Button";
import { ProgressBar } from "../../ui/ProgressBar";
import { isUnplaced, showTies } from "../actions/panorama";
import { usePartaking } from "../state/partaking";
import { useRecipe, useSession, useUnsaved, useView, useWorkspace } from "../state/workspace";
import type { Tool } from "../tools/tool";
import { BeyondWhite } from "./BeyondWhite";
import { StatusBar } from "./StatusBar";
import { useMarks } from "./useMarks";
import { Viewer } from "./Viewer";
import { ViewTurner } from "./ViewTurner";

/** The picture with what lies over it, how far work on it is, and the line of readings below. */
export function PicturePane({
  tool,
  hasSheet,
}: {
  tool: Tool | undefined;
  /** the evidence is a sheet that is opened from here */
  hasSheet: boolean;
}) {
  const marks = useMarks();
  return (
    <section aria-label="Picture" className="flex min-w-0 flex-col">
      <div className="relative flex min-h-0 grow flex-col">
        <Viewer tool={tool} marks={marks} />
        <BeyondWhite />
        {tool?.Overlay && <tool.Overlay />}
        <PanoramaView />
      </div>
      <WorkProgress />
      <Notice />
      <StatusBar hasSheet={hasSheet} />
    </section>
  );
}

/** How a panorama's view will look while it is changed. */
function PanoramaView() {
  const { session, edit } = useWorkspace();
  const recipe = useRecipe();
  const layout = useSession((s) => s.layout);
  const isBusy = useSession((s) => s.phase === "working");
  const { changing } = useUnsaved();
  const tool = useView((view) => view.tool);
  return (
    layout &&
    recipe.kind === "panorama" && (
      <ViewTurner
        session={session}
        recipe={recipe}
        layout={layout}
        mode={tool === "turn" || tool === "roll" ? tool : undefined}
        waits={isBusy || changing}
        edit={edit}
      />
    )
  );
}

/** What is done at the moment, how far it is, and how to stop it. */
function WorkProgress() {
  const { session } = useWorkspace();
  const { phase, doing, share } = useSession((s) => s);
  if (phase !== "working") return null;
  return (
    <div
      role="status"
      className="flex h-8 items-center gap-3 border-t border-line bg-panel px-3 text-[12px]"
    >
      <span className="w-48 truncate">{doing}</span>
      <ProgressBar name={doing} share={share} />
      <Button variant="plain" className="h-6" onClick={() => session.stop()}>
        Stop
      </Button>
    </div>
  );
}

/** What went wrong, and what can be done about it. */
function Notice() {
  const workspace = useWorkspace();
  const { session, view, recipe } = workspace;
  const { kind } = useRecipe();
  const phase = useSession((s) => s.phase);
  const error = useSession((s) => s.error);
  const note = useView((v) => v.note);
  const partaking = usePartaking();
  if (phase !== "failed" && phase !== "stopped" && !error && !note) return null;
  return (
    <div role="alert" className="flex items-center gap-3 border-t border-line bg-panel px-3 py-2">
      <p className="grow">
        {error ? error.message : (note ?? "Stopped. What was merged before is still shown.")}
        {error?.remedy && <span className="text-quiet"> What to do: {error.remedy}.</span>}
      </p>
      {note && !error ? (
        <Button variant="plain" onClick={() => view.setState({ note: undefined })}>
          Close
        </Button>
      ) : (
        <>
          {isUnplaced(kind, { error }) && partaking.length > 1 && (
            <Button
              onClick={() => showTies(workspace)}
              hint="Point at the same things in two frames (T)"
            >
              Set ties manually
            </Button>
          )}
          <Button onClick={() => session.retry(recipe())}>Merge again</Button>
        </>
      )}
    </div>
  );
}
