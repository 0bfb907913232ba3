import type { Recipe } from "../../pipeline/recipe/recipe";
import { applies } from "../../pipeline/settings/applies";
import type { ChoiceField, Field, NumberField } from "../../pipeline/settings/fields";
import { fieldNamed, type SettingName } from "../../pipeline/settings/reference";
import { Choice } from "../ui/Choice";
import { NumberSlider } from "../ui/NumberSlider";
import { TextField } from "../ui/TextField";
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
  /** what changes with it */
  also?: (recipe: Recipe) => Recipe;
}

/** A recipe with another value of a setting. */
function withValue(recipe: Recipe, setting: SettingName, value: unknown): Recipe {
  const [step, key] = setting.split(".") as [keyof Recipe, string];
  return { ...recipe, [step]: { ...(recipe[step] as object), [key]: value } };
}

function valueIn(recipe: Recipe, setting: SettingName): unknown {
  const [step, key] = setting.split(".") as [keyof Recipe, string];
  return (recipe[step] as Record<string, unknown>)[key];
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
  const changed = (value: unknown): Recipe => also(withValue(recipe, name, value));
  const keep = (value: unknown): void => edit.keep(changed(value), field.change ?? field.label);
  const value = valueIn(recipe, name);
  const said = { label: field.label, hint: field.help };
  switch (field.type) {
    case "number": {
      const { onlyKept } = props;
      return (
        <NumberSlider
          {...said}
          {...numberShown(field, props)}
          min={field.usual[0]}
          max={field.usual[1]}
          step={field.step}
          reset={field.defaultOf?.[recipe.kind] ?? field.default}
          value={value as number}
          onChange={(n) => {
            if (!onlyKept) edit.show(changed(n));
          }}
          onCommit={(n) => keep(field.whole ? Math.round(n) : n)}
        />
      );
    }
    case "choice": {
      const options = props.options ?? optionsOf(field, recipe, value);
      return <Choice {...said} value={value as string} options={options} onChange={keep} />;
    }
    case "text":
      return <TextField {...said} value={value as string} onCommit={keep} />;
    case "data":
      return null;
  }
}

/** How a number is written and read, and its unit. */
function numberShown(
  field: NumberField,
  { times = field.times, unit = field.unit }: Pick<SettingOptions, "times" | "unit">,
): Pick<Parameters<typeof NumberSlider>[0], "unit" | "shown" | "parse"> {
  const plus = (v: number): string => (field.signed && v > 0 ? "+" : "");
  return {
    unit,
    shown: (v) => {
      const rounded = Number((v * times).toFixed(field.digits));
      return rounded === 0 ? "0" : `${plus(rounded)}${rounded.toFixed(field.digits)}`;
    },
    parse: (n) => n / times,
  };
}

/** The values that a kind of stack knows; rare ones only where they are set. */
const optionsOf = (field: ChoiceField, { kind }: Recipe, value: unknown): ChoiceField["options"] =>
  field.options.filter(
    (option) =>
      (!option.kinds || option.kinds.includes(kind)) && (!option.rare || option.value === value),
  );
