import { valueOf, withValueAt, type Recipe } from "../../pipeline/recipe/recipe";
import { applies } from "../../pipeline/settings/applies";
import type { ChoiceField, Field } from "../../pipeline/settings/fields";
import { fieldNamed, type SettingName } from "../../pipeline/settings/reference";
import { Choice } from "../ui/Choice";
import { TextField } from "../ui/TextField";
import { NumberSetting } from "./NumberSetting";
import { useRecipe, useWorkspace } from "./state/workspace";

/** What a place in the interface adds to a setting's description. */
export interface SettingOptions {
  /** nothing is shown while it moves, since frames are merged anew by it */
  onlyKept?: boolean;
  /** where a number is shown in another unit than its description's: what one of it is worth */
  times?: number;
  unit?: string;
  /** the values of a choice that are offered, with their words, where those depend on more */
  options?: ChoiceField["options"];
  /** a drag of a number begins or ends */
  onDrag?: (isDragging: boolean) => void;
  /** what changes with it */
  also?: (recipe: Recipe) => Recipe;
}

/**
 * The control of a setting of the opened stack, made from its description: a number's slider, a
 * choice's segments or menu, a line of text. Nothing where the setting has no effect.
 */
export function Setting({ name, ...options }: { name: SettingName } & SettingOptions) {
  const recipe = useRecipe();
  const field = fieldNamed(name);
  if (!field || !applies(field.when, recipe)) return null;
  return <FieldControl field={field} name={name} {...options} />;
}

function FieldControl({
  field,
  name,
  also = (r) => r,
  ...props
}: { field: Field; name: SettingName } & SettingOptions) {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const changed = (value: unknown): Recipe => also(withValueAt(recipe, name.split("."), value));
  const keep = (value: unknown): void => edit.keep(changed(value), field.change ?? field.label);
  const value = valueOf(recipe, name);
  const said = { label: field.label, hint: field.help };
  switch (field.type) {
    case "number":
      return (
        <NumberSetting
          field={field}
          times={props.times}
          unit={props.unit}
          onDrag={props.onDrag}
          rest={field.defaultOf?.[recipe.kind] ?? field.default}
          value={value as number}
          onShow={(n) => {
            if (!props.onlyKept) edit.show(changed(n));
          }}
          onKeep={keep}
        />
      );
    case "choice": {
      const options = props.options ?? optionsOf(field, recipe, value);
      return <Choice {...said} value={value as string} options={options} onChange={keep} />;
    }
    case "text":
      return <TextField {...said} value={value as string} onCommit={keep} />;
    case "data":
    case "group":
      return null;
  }
}

/** The values that a kind of stack knows; rare ones only where they are set. */
const optionsOf = (field: ChoiceField, { kind }: Recipe, value: unknown): ChoiceField["options"] =>
  field.options.filter(
    (option) =>
      (!option.kinds || option.kinds.includes(kind)) && (!option.rare || option.value === value),
  );
