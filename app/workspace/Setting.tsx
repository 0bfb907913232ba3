import { valueOf, withValueAt, type Recipe } from "../../pipeline/recipe/recipe";
import { applies } from "../../pipeline/settings/applies";
import { fieldNamed, type SettingName } from "../../pipeline/settings/reference";
import { FieldControl, type FieldOptions } from "../settings/FieldControl";
import { useRecipe, useWorkspace } from "./state/workspace";

/** What a place in the workspace adds to a setting's description. */
export interface SettingOptions extends FieldOptions {
  /** nothing is shown while it moves, since frames are merged anew by it */
  onlyKept?: boolean;
  /** what changes with it */
  also?: (recipe: Recipe) => Recipe;
}

/** The control of a setting of the opened stack. Nothing where the setting has no effect. */
export function Setting({
  name,
  onlyKept = false,
  also = (r) => r,
  ...options
}: { name: SettingName } & SettingOptions) {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const field = fieldNamed(name);
  if (!field || !applies(field.when, recipe)) return null;
  const changed = (value: unknown): Recipe => also(withValueAt(recipe, name.split("."), value));
  return (
    <FieldControl
      {...options}
      field={field}
      kind={recipe.kind}
      value={valueOf(recipe, name)}
      onShow={(n) => {
        if (!onlyKept) edit.show(changed(n));
      }}
      onKeep={(value) => edit.keep(changed(value), field.change ?? field.label)}
    />
  );
}
