import { Hint } from "./Button";

/** One of many, from a list that opens. */
export function Menu<T extends string>({
  label,
  hint,
  value,
  options,
  onChange,
}: {
  label: string;
  hint: string;
  value: T;
  options: readonly { value: T; text: string }[];
  onChange: (v: T) => void;
}) {
  return (
    <label className="grid grid-cols-[84px_1fr] items-center gap-2 py-0.5">
      <Hint text={hint}>
        <span className="truncate text-quiet">{label}</span>
      </Hint>
      <select
        aria-label={label}
        className="h-6 w-full min-w-0 rounded border border-line bg-panel px-1"
        value={value}
        onChange={(e) => onChange(e.target.value as T)}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.text}
          </option>
        ))}
      </select>
    </label>
  );
}
