import type { NumberField } from "../../pipeline/settings/fields";
import { NumberSlider } from "../ui/NumberSlider";

/** What a place in the interface adds to a number's description. */
export interface NumberOptions {
  /** where it is shown in another unit than its description's: what one of it is worth */
  times?: number | undefined;
  unit?: string | undefined;
  /** in place of the description's */
  label?: string;
  /** a drag of it begins or ends */
  onDrag?: ((isDragging: boolean) => void) | undefined;
  /** where the label alone would not tell which one it is */
  name?: string;
}

/** A number as its description has it: its row, its range, its unit. */
export function NumberSetting({
  field,
  value,
  rest = field.default,
  onShow,
  onKeep,
  name,
  label = field.label,
  onDrag,
  times = field.times,
  unit = field.unit,
}: {
  field: NumberField;
  value: number;
  /** where it rests, if not at its default */
  rest?: number;
  onShow: (value: number) => void;
  onKeep: (value: number) => void;
} & NumberOptions) {
  const plus = (v: number): string => (field.signed && v > 0 ? "+" : "");
  return (
    <NumberSlider
      label={label}
      hint={field.help}
      {...(name ? { name } : {})}
      unit={unit}
      shown={(v) => {
        const rounded = Number((v * times).toFixed(field.digits));
        return rounded === 0 ? "0" : `${plus(rounded)}${rounded.toFixed(field.digits)}`;
      }}
      parse={(n) => n / times}
      min={field.usual[0]}
      max={field.usual[1]}
      step={field.step}
      reset={rest}
      value={value}
      onChange={onShow}
      onDrag={onDrag}
      onCommit={(n) => onKeep(field.whole ? Math.round(n) : n)}
    />
  );
}
