import { Button } from "../../../ui/Button";
import { counted } from "../../../ui/format";
import { dismissDust, healDust, lookForDust } from "../../actions/dust";
import { BrushSize } from "../../BrushSize";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";

/** Spots of dust on the sensor: marked by hand or found, and healed in every frame. */
export function DustControls() {
  const workspace = useWorkspace();
  const isBusy = useView((view) => view.dust.busy);
  const isMarking = useView((view) => view.tool === "dust");
  return (
    <>
      <div className="mt-1 flex items-center gap-1">
        <ToolButton
          tool="dust"
          text="Mark dust"
          hint="Click a spot to heal it in every frame; click it again to undo"
        />
        <Button
          className="px-2"
          disabled={isBusy}
          onClick={() => void lookForDust(workspace)}
          hint="Finds shadows that lie in the same place in all of the day's scenes"
        >
          {isBusy ? "Looking…" : "Find dust"}
        </Button>
      </div>
      {isMarking && <BrushSize label="Spot" most={0.04} step={0.001} reset={0.01} />}
      <HealedSpots />
      <FoundSpots />
    </>
  );
}

function HealedSpots() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const { dust } = recipe.prepare;
  const takeBack = (): void =>
    edit.keep(
      { ...recipe, prepare: { ...recipe.prepare, dust: dust.slice(0, -1) } },
      "Take back a dust spot",
    );
  return (
    dust.length > 0 && (
      <div className="mt-1 flex items-center gap-1 text-[12px]">
        <span className="grow text-quiet">{counted(dust.length, "spot")} healed</span>
        <Button
          variant="plain"
          className="h-6 px-2"
          onClick={takeBack}
          hint="Removes the last one; click a spot while marking to remove that one"
        >
          Take back
        </Button>
      </div>
    )
  );
}

/** What was found and is not decided on yet. */
function FoundSpots() {
  const workspace = useWorkspace();
  const { spots, frames } = useView((view) => view.dust);
  return (
    spots && (
      <div
        aria-live="polite"
        aria-label="Dust found"
        className="mt-1 flex items-center gap-1 text-[12px]"
      >
        <span className="grow text-quiet">
          {spots.length
            ? `${spots.length} likely, over ${frames} frames`
            : `None found over ${frames} frames`}
        </span>
        {spots.length > 0 && (
          <Button className="h-6 px-2" onClick={() => healDust(workspace)}>
            Heal
          </Button>
        )}
        <Button variant="plain" className="h-6 px-2" onClick={() => dismissDust(workspace)}>
          Dismiss
        </Button>
      </div>
    )
  );
}
