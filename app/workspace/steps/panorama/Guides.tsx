import type { Guide } from "../../../../core/panorama/level/straighten";
import { plainNumber } from "../../../ui/format";
import { usePanoramaRecipe, useSession, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";
import { GuideList } from "../GuideList";

/** Sets a panorama upright, and bends its lens right, by lines along what is so in reality. */
export function Guides() {
  const { edit } = useWorkspace();
  const recipe = usePanoramaRecipe();
  const { guides } = recipe.panorama;
  const straightness = useStraightness(guides);
  const remove = (index: number): void =>
    edit.keep(
      {
        ...recipe,
        panorama: { ...recipe.panorama, guides: guides.filter((_, i) => i !== index) },
      },
      `Delete guide ${index + 1}`,
    );
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-1">
        <ToolButton
          tool="level"
          text="Level line"
          hint="Draw along something level: the horizon, a shore, a sill (L)"
        />
        <ToolButton
          tool="vertical"
          text="Vertical line"
          hint="Draw along something vertical: a wall's edge, a mast (Shift L)"
        />
        <ToolButton
          tool="straight"
          text="Straight line"
          hint="Draw along an edge that is straight in reality: the lens's distortion is corrected until it is (K)"
        />
      </div>
      <GuideList
        guides={guides.map(({ kind }, i) => ({ kind, said: straightness[i]! }))}
        onDelete={remove}
      />
    </>
  );
}

/** Of each guide, how straight the edge along it is, once the lens was bent by it. */
function useStraightness(guides: readonly Guide[]): string[] {
  const straight = useSession((s) => s.layout?.straight);
  let next = 0;
  return guides.map(({ kind }) => {
    const off = kind === "straight" ? straight?.[next++] : undefined;
    if (off === undefined) return "";
    return off === null ? ": no edge" : `, ${plainNumber(off, 2)} px`;
  });
}
