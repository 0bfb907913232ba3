import { Button } from "../../ui/Button";
import { dropArea, giveTo, hide } from "../actions/areas";
import type { Area } from "../picture/area";
import { usePartaking } from "../state/partaking";
import { useRecipe, useRecord, useSession, useWorkspace } from "../state/workspace";
import { Candidates } from "./Candidates";
import { MaskChoice } from "./MaskChoice";

/** Which frame an area that was drawn is given to, or in which it is hidden. */
export function AreaChoice({ area }: { area: Area }) {
  const workspace = useWorkspace();
  return (
    <section aria-label="Choose a frame for this area">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="grow font-semibold">Choose a frame for this area</h2>
        <Button variant="plain" className="px-2" onClick={() => dropArea(workspace)}>
          Cancel
        </Button>
      </div>
      <FrameChoice area={area} />
    </section>
  );
}

/** The frames that show the area. */
function FrameChoice({ area }: { area: Area }) {
  const workspace = useWorkspace();
  const { session, view } = workspace;
  const recipe = useRecipe();
  const { frames } = useRecord();
  const layout = useSession((s) => s.layout);
  const aligned = useSession((s) => s.aligned);
  const partaking = usePartaking();
  if (layout)
    return (
      <MaskChoice
        layout={layout}
        area={area}
        frames={partaking}
        onHover={(plate) => view.setState({ plate })}
        onHide={(parts, label) => hide(workspace, parts, label)}
      />
    );
  if (!aligned) return null;
  return (
    <Candidates
      session={session}
      recipe={recipe}
      area={area}
      frames={frames.map((frame, i) => ({
        id: frame.id,
        name: frame.info.name,
        ev: aligned.frames[i]!.ev,
        used: aligned.frames[i]!.used,
      }))}
      onTake={(id) => {
        giveTo(workspace, id, area);
        view.setState({ tool: undefined });
      }}
    />
  );
}
