import type { AlignedFrame } from "../../../../core/align/alignedFrame";
import type { Aligned } from "../../../../pipeline/align/step";
import type { WorkFrame } from "../../../store/shoots";
import { Button } from "../../../ui/Button";
import { plainNumber } from "../../../ui/format";
import { useOneViewRecipe, useRecipe, useRecord, useWorkspace } from "../../state/workspace";

const residualText = (px: number | undefined): string =>
  px === undefined ? "not known" : plainNumber(px, 2);

/** Angle by which a frame is turned against the reference frame, degrees. */
const angleOf = ({ fromReference }: AlignedFrame): number =>
  (Math.atan2(fromReference[3]!, fromReference[0]!) * 180) / Math.PI;

/** How far each frame had to move, and how well it fits now. */
export function AlignedFrames({ aligned }: { aligned: Aligned }) {
  const { frames } = useRecord();
  const { leftOut } = useRecipe().frames;
  return (
    <table className="mt-2 w-full text-[12px]">
      <thead>
        <tr className="text-left text-quiet">
          <th className="font-normal">Frame</th>
          <th className="text-right font-normal">px</th>
          <th className="text-right font-normal">°</th>
          <th className="text-right font-normal">residual, px</th>
        </tr>
      </thead>
      <tbody>
        {aligned.frames.map((place, i) => {
          const frame = frames[i];
          return (
            frame &&
            !leftOut.includes(frame.id) && (
              <tr key={frame.id} className="h-6">
                <td className="max-w-20 truncate">{frame.info.name}</td>
                <td className="text-right">{plainNumber(place.movedPx)}</td>
                <td className="text-right">{plainNumber(angleOf(place), 2)}</td>
                <td className="text-right">
                  <Residual frame={frame} place={place} />
                </td>
              </tr>
            )
          );
        })}
      </tbody>
    </table>
  );
}

/** What is left of a frame's misfit; one that fits badly can be used all the same. */
function Residual({ frame: { id, info }, place }: { frame: WorkFrame; place: AlignedFrame }) {
  const { edit } = useWorkspace();
  const recipe = useOneViewRecipe();
  const { forced } = recipe.align;
  const { used, warning, residualPx } = place;
  if (warning === undefined || (used && !forced.includes(id))) return residualText(residualPx);
  return (
    <Button
      variant="plain"
      className="h-6 px-1"
      aria-pressed={used}
      hint={`This frame ${warning}`}
      onClick={() =>
        edit.keep(
          {
            ...recipe,
            align: {
              ...recipe.align,
              forced: used ? forced.filter((other) => other !== id) : [...forced, id],
            },
          },
          used ? `Leave ${info.name} out` : `Use ${info.name} anyway`,
        )
      }
    >
      {used ? "forced" : "use anyway"}
    </Button>
  );
}
