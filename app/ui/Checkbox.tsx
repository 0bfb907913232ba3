import { Checkbox as Radix } from "radix-ui";

/** A box to tick. */
export function Checkbox({
  name,
  checked,
  disabled = false,
  isTabStop = true,
  onChange,
}: {
  /** said to screen readers; not where a label stands around it */
  name?: string;
  checked: boolean;
  disabled?: boolean;
  /** not where a grid's own keys lead to it */
  isTabStop?: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <Radix.Root
      {...(name ? { "aria-label": name } : {})}
      checked={checked}
      disabled={disabled}
      tabIndex={isTabStop ? 0 : -1}
      onCheckedChange={(to) => onChange(to === true)}
      className="grid size-4 shrink-0 place-items-center rounded-sm border border-quiet bg-track before:absolute before:size-6 disabled:opacity-45 data-[state=checked]:border-accent data-[state=checked]:bg-accent pointer-coarse:before:size-10 relative"
    >
      <Radix.Indicator>
        <svg aria-hidden viewBox="0 0 12 12" className="size-3 fill-none stroke-on-accent stroke-2">
          <path d="M2 6.5 5 9.5 10 3" />
        </svg>
      </Radix.Indicator>
    </Radix.Root>
  );
}
