import { Button } from "../../../ui/Button";
import { dismissDust, healNextDust, lookForDust, skipDust } from "../../actions/dust";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";

/** Likely dust on the merged picture, offered spot by spot. */
export function FoundDust() {
  const workspace = useWorkspace();
  const { kind } = useRecipe();
  const { spots, frames, busy } = useView((view) => view.dust);
  // in a panorama dust lies elsewhere in every frame: Prepare heals it there
  if (kind === "panorama") return null;
  if (!spots)
    return (
      <Button
        className="mt-1 px-2"
        disabled={busy}
        onClick={() => void lookForDust(workspace, "retouch")}
        hint="Finds shadows that lie in the same place in all of the day's scenes, and offers them one by one"
      >
        {busy ? "Looking\u2026" : "Find dust"}
      </Button>
    );
  return (
    <div
      aria-live="polite"
      aria-label="Dust found"
      className="mt-1 flex items-center gap-1 text-[12px]"
    >
      <span className="grow text-quiet">
        {spots.length ? `${spots.length} likely` : `None over ${frames} frames`}
      </span>
      {spots.length > 0 && (
        <>
          <Button
            className="h-6 px-2"
            onClick={() => healNextDust(workspace)}
            hint="Heals this one and goes on (Enter)"
          >
            Heal
          </Button>
          <Button
            className="h-6 px-2"
            onClick={() => skipDust(workspace)}
            hint="Leaves this one and goes on"
          >
            Skip
          </Button>
        </>
      )}
      <Button variant="plain" className="h-6 px-2" onClick={() => dismissDust(workspace)}>
        Dismiss
      </Button>
    </div>
  );
}
