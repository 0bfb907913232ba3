import { Button } from "../ui/Button";
import { Select } from "../ui/Select";
import { SearchField } from "../ui/SearchField";
import { isLookedFor, NO_QUERY, type ShelfQuery } from "./search";

const KINDS = [
  { value: "all", text: "All kinds" },
  { value: "bracket", text: "Brackets" },
  { value: "panorama", text: "Panoramas" },
  { value: "focus", text: "Focus stacks" },
  { value: "single", text: "Single frames" },
] as const;
const STATES = [
  { value: "all", text: "All states" },
  { value: "fresh", text: "To merge" },
  { value: "merged", text: "Merged" },
  { value: "odd", text: "Something odd" },
  { value: "done", text: "Done" },
] as const;
const RATINGS = [
  { value: "0", text: "All ratings" },
  { value: "1", text: "1 star or more" },
  { value: "2", text: "2 stars or more" },
  { value: "3", text: "3 stars or more" },
  { value: "4", text: "4 stars or more" },
  { value: "5", text: "5 stars" },
] as const;
const SORTS = [
  { value: "newest", text: "Brought in last" },
  { value: "taken", text: "Taken last" },
  { value: "name", text: "By name" },
  { value: "left", text: "Most to merge" },
  { value: "size", text: "Largest" },
] as const;

/** What is looked for on the shelf, and in which order shoots stand. */
export function ShelfBar({
  query,
  onQuery,
}: {
  query: ShelfQuery;
  onQuery: (query: ShelfQuery) => void;
}) {
  const set = (part: Partial<ShelfQuery>): void => onQuery({ ...query, ...part });
  return (
    <div
      role="search"
      className="flex h-11 shrink-0 items-center gap-2 border-b border-line bg-panel px-4"
    >
      <SearchField
        name="Search shoots and stacks"
        placeholder="Search names, notes, files, days"
        className="w-72"
        words={query.text}
        onWords={(text) => set({ text })}
      />
      <Select
        name="Kind"
        value={query.kind}
        options={KINDS}
        onChange={(kind) => set({ kind })}
        className="w-34"
      />
      <Select
        name="State"
        value={query.state}
        options={STATES}
        onChange={(state) => set({ state })}
        className="w-36"
      />
      <Select
        name="Rating"
        value={String(query.rating) as "0"}
        options={RATINGS}
        onChange={(rating) => set({ rating: Number(rating) })}
        className="w-36"
      />
      {isLookedFor(query) && (
        <Button variant="plain" onClick={() => onQuery({ ...NO_QUERY, sort: query.sort })}>
          Show all
        </Button>
      )}
      <span className="grow" />
      <Select
        name="Order"
        value={query.sort}
        options={SORTS}
        onChange={(sort) => set({ sort })}
        className="w-36"
      />
    </div>
  );
}
