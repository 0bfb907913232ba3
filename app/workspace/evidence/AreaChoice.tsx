import { dropArea, giveTo, hide } from "../actions/areas";
import type { Area } from "../picture/area";
import { usePartaking } from "../state/partaking";
import { useRecipe, useRecord, useSession, useWorkspace } from "../state/workspace";
import { Candidates } from "./Candidates";
import { MaskChoice } from "./MaskChoice";

/** Which frame an area that was drawn is given to, or in which it is hidden. */
export function AreaChoice({ area }: { area: Area }) {
  const workspace = useWorkspace();
  const { session, view } = workspace;
  const recipe = useRecipe();
  const { frames } = useRecord();
  const layout = useSession((s) => s.layout);
  const aligned = useSession((s) => s.aligned);
  const partaking = usePartaking();
  const cancel = (): void => dropArea(workspace);
  if (layout)
    return (
      <MaskChoice
        layout={layout}
        area={area}
        frames={partaking}
        onHover={(plate) => view.setState({ plate })}
        onHide={(parts, label) => hide(workspace, parts, label)}
        onCancel={cancel}
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
      onCancel={cancel}
    />
  );
}
