import { partOf } from "../../actions/parts";
import { useRecipe, useView } from "../../state/workspace";
import { AdjustmentGroups } from "./AdjustmentGroups";
import { PartList } from "./PartList";
import { PartSettings } from "./PartSettings";
import { PartTools } from "./PartTools";

/** The parts of the picture, and the adjustments of the one that is shown. */
export function FinishControls() {
  const recipe = useRecipe();
  const id = useView((view) => view.part);
  const part = partOf(recipe, id);
  return (
    <>
      <PartList />
      <PartTools part={part} />
      {part && <PartSettings part={part} />}
      <AdjustmentGroups key={part?.id ?? "whole"} part={part?.id} />
    </>
  );
}
