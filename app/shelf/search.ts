import type { ShelfEntry, ShelfStack } from "../store/shelf";

/** What is looked for on the shelf. */
export interface ShelfQuery {
  /** words, each of which has to stand somewhere */
  text: string;
  kind: "all" | ShelfStack["kind"];
  state: "all" | "fresh" | "merged" | "done" | "odd";
  /** stars at least */
  rating: number;
  sort: "newest" | "name" | "taken" | "left" | "size";
}
export const NO_QUERY: ShelfQuery = {
  text: "",
  kind: "all",
  state: "all",
  rating: 0,
  sort: "newest",
};

/** A shoot with those of its stacks that were looked for; all where nothing is. */
export interface Found {
  entry: ShelfEntry;
  stacks: readonly ShelfStack[];
}

export const isLookedFor = ({ text, kind, state, rating }: ShelfQuery): boolean =>
  text.trim() !== "" || kind !== "all" || state !== "all" || rating > 0;

/** A day as people write it: 2026-05-14, 14 May 2026, May 2026. */
function dayWords(seconds: number | undefined): string {
  if (seconds === undefined) return "";
  const day = new Date(seconds * 1000);
  const written = day.toLocaleDateString("en-GB", {
    day: "numeric",
    month: "long",
    year: "numeric",
    timeZone: "UTC",
  });
  return `${day.toISOString().slice(0, 10)} ${written}`;
}

const isInState = (stack: ShelfStack, state: ShelfQuery["state"]): boolean =>
  ({
    all: true,
    fresh: stack.isToMerge,
    merged: stack.isMerged,
    done: stack.done,
    odd: stack.isOdd,
  })[state];

/** All words by which a stack is found. */
const wordsOf = (stack: ShelfStack, { shoot }: ShelfEntry): string =>
  [
    shoot.name,
    shoot.note,
    stack.name,
    stack.note,
    stack.kind,
    stack.label === "none" ? "" : stack.label,
    dayWords(stack.takenAt),
    ...stack.files,
  ]
    .join(" ")
    .toLowerCase();

const SORTS: Record<ShelfQuery["sort"], (a: ShelfEntry, b: ShelfEntry) => number> = {
  newest: (a, b) => b.shoot.createdAt - a.shoot.createdAt,
  name: (a, b) => a.shoot.name.localeCompare(b.shoot.name, "en", { numeric: true }),
  taken: (a, b) => (b.takenAt ?? 0) - (a.takenAt ?? 0),
  left: (a, b) => b.fresh - a.fresh,
  size: (a, b) => b.bytes - a.bytes,
};

/** Shoots that have what is looked for, in the order that is asked for. */
export function search(shelf: readonly ShelfEntry[], query: ShelfQuery): Found[] {
  const words = query.text.toLowerCase().split(/\s+/).filter(Boolean);
  const sorted = [...shelf].sort((a, b) => SORTS[query.sort](a, b) || SORTS.newest(a, b));
  return sorted.flatMap((entry): Found[] => {
    if (!isLookedFor(query)) return [{ entry, stacks: entry.stackList }];
    const stacks = entry.stackList.filter((stack) => {
      const all = wordsOf(stack, entry);
      return (
        (query.kind === "all" || stack.kind === query.kind) &&
        stack.rating >= query.rating &&
        isInState(stack, query.state) &&
        words.every((word) => all.includes(word))
      );
    });
    return stacks.length ? [{ entry, stacks }] : [];
  });
}
