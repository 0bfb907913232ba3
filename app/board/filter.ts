import type { Result, Stack } from "../store/records";

export interface BoardFilter {
  kind: "all" | Stack["kind"];
  state: "all" | "fresh" | "merged" | "done" | "odd";
  label: "all" | Stack["label"];
  rating: number;
  sort: "taken" | "name" | "rating" | "range";
}
export const NO_FILTER: BoardFilter = {
  kind: "all",
  state: "all",
  label: "all",
  rating: 0,
  sort: "taken",
};

/** A row of the board: a stack, or a member of a nested one that is opened. */
export interface Row {
  stack: Stack;
  members: Stack[];
  depth: 0 | 1;
  open: boolean;
}

/**
 * The rows that are shown, in their order. A member follows its outer stack, whatever the order is
 * by.
 */
export function rowsOf(
  stacks: readonly Stack[],
  results: ReadonlyMap<string, Result>,
  f: BoardFilter,
  opened: ReadonlySet<string>,
): Row[] {
  const outer = stacks.filter((s) => !s.parentId || !stacks.some((o) => o.id === s.parentId));
  const isIn = (state: BoardFilter["state"], s: Stack): boolean => {
    switch (state) {
      case "all":
        return true;
      case "fresh":
        return !results.has(s.id);
      case "merged":
        return results.has(s.id);
      case "done":
        return s.done;
      case "odd":
        return s.warnings.length > 0;
    }
  };
  const shown = outer.filter(
    (s) =>
      (f.kind === "all" || s.kind === f.kind) &&
      (f.label === "all" || s.label === f.label) &&
      s.rating >= f.rating &&
      isIn(f.state, s),
  );
  const by: Record<BoardFilter["sort"], (a: Stack, b: Stack) => number> = {
    taken: (a, b) => a.order - b.order,
    name: (a, b) => a.name.localeCompare(b.name, "en", { numeric: true }) || a.order - b.order,
    rating: (a, b) => b.rating - a.rating || a.order - b.order,
    range: (a, b) =>
      (results.get(b.id)?.rangeEv ?? -1) - (results.get(a.id)?.rangeEv ?? -1) || a.order - b.order,
  };
  return shown.sort(by[f.sort]).flatMap((stack): Row[] => {
    const members = stacks.filter((m) => m.parentId === stack.id);
    const open = members.length > 0 && opened.has(stack.id);
    return [
      { stack, members, depth: 0, open },
      ...(open ? members.map((m): Row => ({ stack: m, members: [], depth: 1, open: false })) : []),
    ];
  });
}
