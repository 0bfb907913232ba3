import { ToggleGroup } from "radix-ui";
import { Hint } from "./Button";

/** One of a few, all seen at once. */
export function Choice<T extends string>({
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
    <div className="grid grid-cols-[84px_1fr] items-start gap-2 py-0.5">
      <Hint text={hint}>
        <span className="leading-6 text-quiet">{label}</span>
      </Hint>
      <ToggleGroup.Root
        type="single"
        aria-label={label}
        value={value}
        onValueChange={(v) => v && onChange(v as T)}
        className="flex flex-wrap gap-0.5"
      >
        {options.map((o) => (
          <ToggleGroup.Item
            key={o.value}
            value={o.value}
            className="h-6 whitespace-nowrap rounded border border-transparent px-[5px] text-quiet hover:text-ink data-[state=on]:border-line data-[state=on]:bg-raised data-[state=on]:text-ink"
          >
            {o.text}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}
