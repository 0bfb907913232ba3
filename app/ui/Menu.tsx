import { LabelledRow } from "./LabelledRow";
import { Select, type Option } from "./Select";

/** One of many, with its label: a list that opens. */
export function Menu<T extends string>({
  label,
  name = label,
  hint,
  value,
  options,
  onChange,
}: {
  label: string;
  /** where the label alone would not tell which one it is */
  name?: string;
  hint: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
}) {
  return (
    <LabelledRow label={label} hint={hint}>
      <Select name={name} value={value} options={options} onChange={onChange} />
    </LabelledRow>
  );
}
