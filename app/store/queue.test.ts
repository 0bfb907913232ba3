import { jest } from "@jest/globals";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import { emptyStorage } from "./forStorage";
import type { Queued } from "./records";

const queued = (id: string, order: number): Queued => ({
  id,
  shootId: "s",
  stackId: `stack ${id}`,
  order,
  run: { id: "run", name: "Quillmoor", stacks: 2 },
  name: id,
  recipe: defaultRecipe("bracket"),
  names: [`${id}.jpg`],
  written: {},
});

async function queue(): Promise<typeof import("./queue")> {
  emptyStorage();
  jest.resetModules();
  return import("./queue");
}

test("deliveries are kept in their order, with what becomes of them, until they are dropped", async () => {
  const { keepQueued, readQueue, updateQueued, dropQueued, orderQueue } = await queue();
  await keepQueued([queued("a", 2), queued("b", 1)]);
  expect((await readQueue()).map(({ id }) => id)).toEqual(["b", "a"]);
  await updateQueued("a", { written: { 0: { name: "a.jpg", whole: true } } });
  await orderQueue(["a", "b"]);
  expect((await readQueue()).map(({ id, written }) => [id, written])).toEqual([
    ["a", { 0: { name: "a.jpg", whole: true } }],
    ["b", {}],
  ]);
  await dropQueued("a");
  // what was dropped does not come back by a late change
  await updateQueued("a", { failed: { code: "damaged", message: "", remedy: "" } });
  expect((await readQueue()).map(({ id }) => id)).toEqual(["b"]);
});

test("what is no delivery is left out, and is not kept", async () => {
  const { keepQueued, readQueue } = await queue();
  await expect(keepQueued([{ ...queued("a", 1), names: [] }])).rejects.toThrow();
  const { db } = await import("./db");
  await (await db()).put("queue", { id: "odd" } as never);
  await keepQueued([queued("b", 1)]);
  expect((await readQueue()).map(({ id }) => id)).toEqual(["b"]);
});
