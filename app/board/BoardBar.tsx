import { Toolbar } from "radix-ui";
import { LABELS } from "../store/records";
import { Button } from "../ui/Button";
import { Select, type Option } from "../ui/Select";
import { BoardMenu, SelectionMenus, type BoardActions } from "./BoardMenus";
import { NO_FILTER, type BoardFilter } from "./filter";
import { ROW_HEIGHT_NAMES, ROW_HEIGHTS, type RowHeight } from "./rowHeight";
import { labelText, stars } from "./marks";

const KIND_OPTIONS: readonly Option<BoardFilter["kind"]>[] = [
  { value: "all", text: "All kinds" },
  { value: "bracket", text: "Brackets" },
  { value: "panorama", text: "Panoramas" },
  { value: "focus", text: "Focus stacks" },
  { value: "single", text: "Singles" },
];
const STATE_OPTIONS: readonly Option<BoardFilter["state"]>[] = [
  { value: "all", text: "Any state" },
  { value: "fresh", text: "Not merged" },
  { value: "merged", text: "Merged" },
  { value: "done", text: "Done" },
  { value: "odd", text: "Odd" },
];
const MARK_OPTIONS: readonly Option[] = [
  { value: "all", text: "Any mark" },
  ...[1, 2, 3, 4, 5].map((n) => ({
    value: String(n),
    text: stars(n),
    group: "Rated at least",
  })),
  ...LABELS.map((label) => ({ value: label, text: labelText(label), group: "Labelled" })),
];
const ORDER_OPTIONS: readonly Option<BoardFilter["sort"]>[] = [
  { value: "taken", text: "As taken" },
  { value: "name", text: "By name" },
  { value: "rating", text: "By rating" },
  { value: "range", text: "By scene range" },
];

interface Props {
  filter: BoardFilter;
  onFilter: (filter: BoardFilter) => void;
  /** stacks that are shown, of how many */
  shown: number;
  all: number;
  height: RowHeight;
  onHeight: (height: RowHeight) => void;
  actions: BoardActions;
}

/** What is shown and in which order, left; what can be done with the selected stacks, right. */
export function BoardBar({ filter, onFilter, shown, all, height, onHeight, actions }: Props) {
  const isFiltered = JSON.stringify({ ...filter, sort: "taken" }) !== JSON.stringify(NO_FILTER);
  const pick = "h-7 shrink-0 border-transparent bg-transparent";
  return (
    <Toolbar.Root
      aria-label="Board"
      loop={false}
      className="flex min-h-10 shrink-0 flex-wrap items-center gap-1 border-b border-line bg-panel px-3 py-1"
    >
      <span className="text-[12px] text-quiet">Show</span>
      <Select
        name="Kind"
        className={pick}
        value={filter.kind}
        options={KIND_OPTIONS}
        onChange={(kind) => onFilter({ ...filter, kind })}
      />
      <Select
        name="State"
        className={pick}
        value={filter.state}
        options={STATE_OPTIONS}
        onChange={(state) => onFilter({ ...filter, state })}
      />
      <Select
        name="Marked"
        className={pick}
        value={filter.rating ? String(filter.rating) : filter.label}
        options={MARK_OPTIONS}
        onChange={(mark) => onFilter(withMark(filter, mark))}
      />
      <Select
        name="Order"
        className={pick}
        value={filter.sort}
        options={ORDER_OPTIONS}
        onChange={(sort) => onFilter({ ...filter, sort })}
      />
      <RowHeights height={height} onHeight={onHeight} />
      {isFiltered && (
        <Button
          variant="plain"
          className="px-2"
          onClick={() => onFilter({ ...NO_FILTER, sort: filter.sort })}
          hint={`${shown} of ${all} stacks are shown`}
        >
          Show all {all}
        </Button>
      )}
      <BoardMenu actions={actions} />
      <span className="grow" />
      <SelectionMenus actions={actions} />
    </Toolbar.Root>
  );
}

/** Stacks with a rating of at least so much, or with one label. */
function withMark(filter: BoardFilter, mark: string): BoardFilter {
  const rating = Number(mark) || 0;
  return { ...filter, rating, label: rating ? "all" : (mark as BoardFilter["label"]) };
}

/** Rows in three heights, the tallest to look at results. */
function RowHeights({
  height,
  onHeight,
}: {
  height: RowHeight;
  onHeight: (height: RowHeight) => void;
}) {
  return (
    <div
      role="radiogroup"
      aria-label="Height of the rows"
      className="flex rounded border border-line"
    >
      {ROW_HEIGHT_NAMES.map((name, i) => (
        <button
          key={name}
          type="button"
          role="radio"
          aria-checked={height === name}
          aria-label={`${ROW_HEIGHTS[name].text} rows`}
          title={`${ROW_HEIGHTS[name].text} rows (H goes on to the next)`}
          onClick={() => onHeight(name)}
          className="grid size-6 place-items-center text-quiet aria-checked:bg-fill aria-checked:text-ink hover:text-ink pointer-coarse:size-10"
        >
          <svg aria-hidden viewBox="0 0 12 12" className="size-3 fill-none stroke-current">
            {Array.from({ length: 3 - i }, (_, k) => (
              <path key={k} d={`M1 ${((k + 1) * 12) / (4 - i)}h10`} strokeWidth={1 + i * 1.5} />
            ))}
          </svg>
        </button>
      ))}
    </div>
  );
}
