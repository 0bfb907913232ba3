import { Chevron } from "./Chevron";
import { Select as Radix } from "radix-ui";
import { useFocusReturn } from "./useFocusReturn";

export interface Option<T extends string = string> {
  value: T;
  text: string;
  /** the heading that it stands below, with those before and after it */
  group?: string;
}

interface Props<T extends string> {
  name: string;
  hint?: string;
  value: T | "";
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  /** shown when nothing is chosen */
  placeholder?: string;
  disabled?: boolean;
  className?: string;
}

/** One of many, from a list that opens. */
export function Select<T extends string>({
  name,
  hint,
  value,
  options,
  onChange,
  placeholder,
  disabled = false,
  className = "",
}: Props<T>) {
  const focusReturn = useFocusReturn();
  return (
    <Radix.Root value={value} onValueChange={(to) => onChange(to as T)} disabled={disabled}>
      <Radix.Trigger
        aria-label={name}
        title={hint}
        className={`flex h-7 min-w-0 items-center justify-between gap-2 rounded border border-line bg-track px-2 text-left hover:border-quiet pointer-coarse:h-10 ${className}`}
      >
        <span className="truncate">
          <Radix.Value placeholder={placeholder} />
        </span>
        <Radix.Icon asChild>
          <span className="text-quiet">
            <Chevron />
          </span>
        </Radix.Icon>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          {...focusReturn}
          sideOffset={4}
          className="z-50 max-h-[min(60vh,var(--radix-select-content-available-height))] min-w-(--radix-select-trigger-width) overflow-hidden rounded border border-line bg-raised shadow-lg"
        >
          <Radix.Viewport className="p-1">
            {grouped(options).map(([heading, members]) => (
              <Radix.Group key={heading}>
                {heading && (
                  <Radix.Label className="px-2 pb-0.5 pt-1.5 text-[12px] text-quiet">
                    {heading}
                  </Radix.Label>
                )}
                {members.map((option) => (
                  <Radix.Item
                    key={option.value}
                    value={option.value}
                    data-value={option.value}
                    className="flex h-7 cursor-pointer items-center gap-2 rounded px-2 outline-none data-[highlighted]:bg-fill data-[state=checked]:font-semibold pointer-coarse:h-10"
                  >
                    <Radix.ItemText>{option.text}</Radix.ItemText>
                  </Radix.Item>
                ))}
              </Radix.Group>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

/** Options by the heading that they stand below. */
function grouped<T extends string>(options: readonly Option<T>[]): [string, Option<T>[]][] {
  const groups = new Map<string, Option<T>[]>();
  for (const option of options) {
    const heading = option.group ?? "";
    groups.set(heading, [...(groups.get(heading) ?? []), option]);
  }
  return [...groups];
}
