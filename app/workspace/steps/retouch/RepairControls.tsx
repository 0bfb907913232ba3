import { Choice } from "../../../ui/Choice";
import type { RepairKind } from "../../../../core/retouch/repair";
import { withRepair } from "../../actions/repairs";
import { BrushSize } from "../../BrushSize";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";
import { FoundDust } from "./FoundDust";
import { RepairList } from "./RepairList";
import { RepairSettings } from "./RepairSettings";

const KINDS: readonly { value: RepairKind; text: string }[] = [
  { value: "heal", text: "Heal" },
  { value: "clone", text: "Clone" },
  { value: "fill", text: "Fill" },
];

/** Places of the merged picture that are put right. */
export function RepairControls() {
  const { view, edit } = useWorkspace();
  const recipe = useRecipe();
  const inHand = useView((v) => v.repairKind);
  const shown = useView((v) => v.repair);
  const isDrawing = useView((v) => v.tool === "repair brush" || v.tool === "repair outline");
  const repair = shown === undefined ? undefined : recipe.retouch.repairs[shown];
  const setKind = (kind: RepairKind): void => {
    view.setState({ repairKind: kind });
    if (repair && shown !== undefined && repair.kind !== kind)
      edit.keep(withRepair(recipe, shown, { kind }), "Kind of a repair");
  };
  return (
    <>
      <Choice
        label="How"
        hint="Heal takes texture from elsewhere and light from round it; Clone takes both as they are; Fill makes a larger place up of what lies round it."
        value={repair?.kind ?? inHand}
        options={KINDS}
        onChange={setKind}
      />
      <div role="group" aria-label="Draw repairs" className="mt-1 grid grid-cols-2 gap-1">
        <ToolButton
          tool="repair brush"
          text="Spot, stroke"
          hint="Click a spot or paint over a place (H)"
          isCell
        />
        <ToolButton
          tool="repair outline"
          text="Outline"
          hint="Draw round a place (Shift H)"
          isCell
        />
      </div>
      {isDrawing && (
        <BrushSize label="Size" most={0.1} step={0.0005} reset={0.008} of="repairBrush" />
      )}
      <FoundDust />
      <RepairList />
      {repair && <RepairSettings repair={repair} index={shown!} />}
    </>
  );
}
