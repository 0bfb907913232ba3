import { defaultRecipe } from "../../pipeline/recipe/recipe";
import type { Put } from "./changes";
import type { Stack, Take } from "./records";
import {
  addTake,
  deleteTake,
  deliverTake,
  describeTake,
  inOrder,
  MOST_TAKES,
  moveTake,
  type StackTakes,
} from "./takes";

const take = (id: string, order: number): Take => ({
  id,
  stackId: "s",
  shootId: "h",
  name: id,
  note: "",
  order,
  recipe: defaultRecipe("bracket"),
});
const stackOf = (ids: readonly string[], delivered = ids[0]!): StackTakes => ({
  stack: { id: "s", shootId: "h", takeId: delivered } as Stack,
  takes: ids.map(take),
});

/** The takes after an edit, in their order, and the one that is delivered. */
function after({ stack, takes }: StackTakes, puts: readonly Put[]): [string[], string] {
  const byId = new Map(takes.map((t) => [t.id, t]));
  let delivered = stack.takeId;
  for (const put of puts)
    if (put.store === "stacks" && "value" in put) delivered = put.value.takeId;
    else if (put.store === "takes" && "remove" in put) byId.delete(put.remove);
    else if (put.store === "takes" && "value" in put) byId.set(put.value.id, put.value);
  return [inOrder([...byId.values()]).map(({ id }) => id), delivered];
}

test("a new take stands after the one it was begun beside, with a name of its own", () => {
  const of = stackOf(["a", "b"]);
  const recipe = defaultRecipe("bracket");
  const { puts } = addTake(of, "n", "a", { from: "this", recipe }, "b");
  expect(after(of, puts)).toEqual([["a", "n", "b"], "a"]);
  expect(puts[0]).toMatchObject({ value: { name: "b 2" } });
});

test("a take from default keeps the frames that take part, and the open one can go back", () => {
  const of = stackOf(["a"]);
  const [open] = of.takes;
  open!.recipe.frames.leftOut = ["x"];
  const was = defaultRecipe("bracket");
  const { puts } = addTake(of, "n", "a", { from: "default" }, "Plain", was);
  expect(puts[0]).toMatchObject({ value: { recipe: { frames: { leftOut: ["x"] } } } });
  expect(puts[1]).toMatchObject({ value: { id: "a", recipe: was } });
});

test("deleting the delivered take delivers its neighbour; the last one stays", () => {
  const of = stackOf(["a", "b", "c"], "b");
  expect(after(of, deleteTake(of, "b").puts)).toEqual([["a", "c"], "a"]);
  expect(after(of, deleteTake(of, "c").puts)).toEqual([["a", "b"], "b"]);
  const first = stackOf(["a", "b"]);
  expect(after(first, deleteTake(first, "a").puts)).toEqual([["b"], "b"]);
  expect(deleteTake(stackOf(["a"]), "a").puts).toEqual([]);
});

test("takes move, are renamed, described and chosen", () => {
  const of = stackOf(["a", "b", "c"]);
  expect(after(of, moveTake(of, "c", -1).puts)[0]).toEqual(["a", "c", "b"]);
  expect(moveTake(of, "a", -1).puts).toEqual([]);
  expect(describeTake(of, "b", { name: "Warm" }).puts[0]).toMatchObject({
    value: { id: "b", name: "Warm" },
  });
  expect(describeTake(of, "b", { note: "for the agent" }).puts[0]).toMatchObject({
    value: { note: "for the agent", name: "b" },
  });
  expect(after(of, deliverTake(of, "c").puts)[1]).toBe("c");
  expect(deliverTake(of, "a").puts).toEqual([]);
  expect(() => deliverTake(of, "gone")).toThrow(/gone/);
});

test("a stack has so many takes and no more", () => {
  const of = stackOf(Array.from({ length: MOST_TAKES }, (_, i) => `t${i}`));
  expect(() => addTake(of, "n", "t0", { from: "default" }, "One more")).toThrow(/at most/);
});
