import { ToggleGroup } from "radix-ui";
import { Hint } from "./Button";
import { Menu } from "./Menu";
import type { Option } from "./Select";

interface Props<T extends string> {
  label: string;
  hint: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
}

/** More choices than this are a list that opens. */
const MOST_CELLS = 4;
/** Letters that fit a cell beside the label, and below it, by the number of cells. */
const LETTERS_BESIDE = [0, 26, 12, 8, 5];
const LETTERS_BELOW = [0, 40, 19, 12, 8];

/** One of a few as a row of equal cells, all seen at once; one of many from a list that opens. */
export function Choice<T extends string>(props: Props<T>) {
  const { label, hint, options } = props;
  const longest = Math.max(...options.map(({ text }) => text.length));
  if (options.length > MOST_CELLS || longest > LETTERS_BELOW[options.length]!)
    return <Menu {...props} />;
  const isBeside = longest <= LETTERS_BESIDE[options.length]!;
  return (
    <div
      className={isBeside ? "my-px grid min-h-7 grid-cols-[96px_1fr] items-center gap-2" : "my-px"}
    >
      <Hint text={hint}>
        <span className="inline-block truncate pl-2.5 text-quiet">{label}</span>
      </Hint>
      <Cells {...props} />
    </div>
  );
}

function Cells<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(to) => to && onChange(to as T)}
      className="grid auto-cols-fr grid-flow-col divide-x divide-line overflow-hidden rounded border border-line bg-track"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="h-[26px] truncate px-1 text-quiet hover:text-ink data-[state=on]:bg-fill data-[state=on]:text-ink pointer-coarse:h-10"
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
