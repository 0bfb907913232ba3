import type { Adjustments } from "../../../../core/finish/adjustments";
import { ADJUSTMENT_FIELDS } from "../../../../pipeline/finish/adjustmentFields";
import { adjustmentsOf, partOf, withAdjustments } from "../../actions/parts";
import { NumberSetting, type NumberOptions } from "../../../settings/NumberSetting";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";

type NumberKey = {
  [K in keyof Adjustments]: Adjustments[K] extends number ? K : never;
}[keyof Adjustments];

/** The adjustments of the part that is shown, and how they are changed. */
export function useAdjustments(): {
  set: Adjustments;
  show: (more: Partial<Adjustments>) => void;
  keep: (more: Partial<Adjustments>, label: string) => void;
} {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const id = useView((view) => view.part);
  const part = partOf(recipe, id);
  return {
    set: adjustmentsOf(recipe, id),
    show: (more) => edit.show(withAdjustments(recipe, id, more)),
    keep: (more, label) =>
      edit.keep(withAdjustments(recipe, id, more), part ? `${label}, ${part.name}` : label),
  };
}

/** One adjustment of the part that is shown, made from its description. */
export function Adjustment({
  name: key,
  ...options
}: { name: NumberKey } & Omit<NumberOptions, "name">) {
  const { set, show, keep } = useAdjustments();
  const field = ADJUSTMENT_FIELDS[key];
  return (
    <NumberSetting
      field={field}
      {...options}
      value={set[key]}
      onShow={(value) => show({ [key]: value })}
      onKeep={(value) => keep({ [key]: value }, field.label)}
    />
  );
}
