import { shootOf } from "../store/forStorage";
import type { ShelfEntry, ShelfStack } from "../store/shelf";
import { NO_QUERY, search } from "./search";

const stack = (id: string, more: Partial<ShelfStack> = {}): ShelfStack => ({
  id,
  name: `Stack ${id}`,
  kind: "bracket",
  rating: 0,
  label: "none",
  note: "",
  done: false,
  isMerged: false,
  isToMerge: true,
  isOdd: false,
  takenAt: Date.UTC(2026, 4, 14) / 1000,
  files: [`QM_${id}.jpg`],
  picture: undefined,
  ...more,
});
const entry = (
  id: string,
  stackList: ShelfStack[],
  more: Partial<ShelfEntry> = {},
): ShelfEntry => ({
  shoot: { ...shootOf(id), createdAt: Number(id) },
  frames: stackList.length,
  stacks: stackList.length,
  fresh: 0,
  done: 0,
  bytes: 0,
  takenAt: undefined,
  pictures: [],
  stackList,
  ...more,
});

const shelf = [
  entry("1", [stack("a", { kind: "focus", rating: 4 }), stack("b", { note: "South window" })]),
  entry("2", [stack("c", { isMerged: true, isToMerge: false, done: true })], { bytes: 9 }),
];
const found = (query: Partial<typeof NO_QUERY>): string[][] =>
  search(shelf, { ...NO_QUERY, ...query }).map(({ stacks }) => stacks.map(({ id }) => id));

test.each([
  ["a file's name", { text: "qm_b" }, [["b"]]],
  ["words in any order, from note and shoot", { text: "window shoot south" }, [["b"]]],
  ["a day as it is written", { text: "14 may 2026" }, [["c"], ["a", "b"]]],
  ["a day in numbers", { text: "2026-05" }, [["c"], ["a", "b"]]],
  ["a kind", { kind: "focus" as const }, [["a"]]],
  ["stars", { rating: 4 }, [["a"]]],
  ["a state", { state: "done" as const }, [["c"]]],
  ["all of it together", { kind: "focus" as const, text: "a", rating: 5 }, []],
])("stacks are found by %s", (_what, query, expected) => {
  expect(found(query)).toEqual(expected);
});

test("nothing looked for, all shoots stand in the order that is asked for", () => {
  const order = (sort: (typeof NO_QUERY)["sort"]): string[] =>
    search(shelf, { ...NO_QUERY, sort }).map(({ entry: { shoot } }) => shoot.id);
  expect(order("newest")).toEqual(["2", "1"]);
  expect(order("name")).toEqual(["1", "2"]);
  expect(order("size")).toEqual(["2", "1"]);
});
