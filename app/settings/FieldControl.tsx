import type { ChoiceField, Field } from "../../pipeline/settings/fields";
import type { RecipeKind } from "../../pipeline/recipe/kinds";
import { Choice } from "../ui/Choice";
import { TextField } from "../ui/TextField";
import { NumberSetting } from "./NumberSetting";

/** What a place in the interface adds to a setting's description. */
export interface FieldOptions {
  /** where a number is shown in another unit than its description's: what one of it is worth */
  times?: number;
  unit?: string;
  /** the values of a choice that are offered, with their words, where those depend on more */
  options?: ChoiceField["options"];
  /** a drag of a number begins or ends */
  onDrag?: (isDragging: boolean) => void;
}

/**
 * The control of a setting, made from its description: a number's slider, a choice's segments or
 * menu, a line of text.
 */
export function FieldControl({
  field,
  kind,
  value,
  onShow = () => undefined,
  onKeep,
  ...options
}: {
  field: Field;
  /** of the stack that it is set for */
  kind: RecipeKind;
  value: unknown;
  /** a number while it moves */
  onShow?: (value: number) => void;
  onKeep: (value: unknown) => void;
} & FieldOptions) {
  const said = { label: field.label, hint: field.help };
  switch (field.type) {
    case "number":
      return (
        <NumberSetting
          field={field}
          times={options.times}
          unit={options.unit}
          onDrag={options.onDrag}
          rest={field.defaultOf?.[kind] ?? field.default}
          value={value as number}
          onShow={onShow}
          onKeep={onKeep}
        />
      );
    case "choice": {
      const offered = options.options ?? optionsOf(field, kind, value);
      return <Choice {...said} value={value as string} options={offered} onChange={onKeep} />;
    }
    case "text":
      return <TextField {...said} value={value as string} onCommit={onKeep} />;
    case "data":
    case "group":
      return null;
  }
}

/** The values that a kind of stack knows; rare ones only where they are set. */
const optionsOf = (field: ChoiceField, kind: RecipeKind, value: unknown): ChoiceField["options"] =>
  field.options.filter(
    (option) =>
      (!option.kinds || option.kinds.includes(kind)) && (!option.rare || option.value === value),
  );
