import { jest } from "@jest/globals";
import { emptyStorage, shootOf, stackOf } from "./forStorage";

beforeEach(() => {
  jest.resetModules();
  emptyStorage();
});

/** A shoot with one stack, and what changes it. */
async function begin() {
  const changes = await import("./changes");
  const { exclusively } = await import("./exclusive");
  const { historyOf } = changes;
  type Rest<T> = T extends (writer: never, ...rest: infer R) => unknown ? R : never;
  const change = (...args: Rest<typeof changes.change>) =>
    exclusively((writer) => changes.change(writer, ...args));
  const step = (...args: Rest<typeof changes.step>) =>
    exclusively((writer) => changes.step(writer, ...args));
  const { db } = await import("./db");
  const database = await db();
  const stack = stackOf("k1", "s1");
  await change(
    "s1",
    "Bring in",
    [
      { store: "shoots", value: shootOf("s1") },
      { store: "stacks", value: stack },
    ],
    { undoable: false },
  );
  const rate = (rating: number): Promise<void> =>
    change("s1", `Rate ${rating}`, [{ store: "stacks", value: { ...stack, rating } }]);
  const rating = async (): Promise<number | undefined> =>
    (await database.get("stacks", "k1"))?.rating;
  return { change, historyOf, step, database, rate, rating };
}

test("changes are taken back one by one, and done again in their order", async () => {
  const { historyOf, step, rate, rating, database } = await begin();
  for (const stars of [1, 2, 3]) await rate(stars);
  expect(await step("s1", "undo")).toBe("Rate 3");
  expect(await step("s1", "undo")).toBe("Rate 2");
  expect(await rating()).toBe(1);
  expect(await historyOf("s1")).toEqual({ undo: "Rate 1", redo: "Rate 2" });
  expect(await step("s1", "redo")).toBe("Rate 2");
  expect(await step("s1", "redo")).toBe("Rate 3");
  expect(await step("s1", "redo")).toBeUndefined();
  expect(await rating()).toBe(3);
  database.close();
});

test("a new change forgets what was undone before it", async () => {
  const { historyOf, step, rate, rating, database } = await begin();
  await rate(1);
  await rate(2);
  await step("s1", "undo");
  await rate(5);
  expect(await historyOf("s1")).toEqual({ undo: "Rate 5" });
  await step("s1", "undo");
  expect(await rating()).toBe(1);
  database.close();
});

test("records that a change added or removed come and go with it, several at once", async () => {
  const { change, step, database } = await begin();
  await change("s1", "Split", [
    { store: "stacks", remove: "k1" },
    { store: "stacks", value: stackOf("k2", "s1") },
    { store: "stacks", value: stackOf("k3", "s1") },
  ]);
  const ids = async (): Promise<string[]> => (await database.getAllKeys("stacks")).sort();
  expect(await ids()).toEqual(["k2", "k3"]);
  await step("s1", "undo");
  expect(await ids()).toEqual(["k1"]);
  await step("s1", "redo");
  expect(await ids()).toEqual(["k2", "k3"]);
  database.close();
});

test("an invalid record keeps nothing of its change, and says what is wrong", async () => {
  const { change, rating, historyOf, database } = await begin();
  const puts = [
    { store: "stacks" as const, value: { ...stackOf("k1", "s1"), rating: 4 } },
    { store: "stacks" as const, value: { ...stackOf("k4", "s1"), rating: 9 } },
  ];
  await expect(change("s1", "Rate", puts)).rejects.toMatchObject({ code: "record-invalid" });
  expect(await rating()).toBe(0);
  expect(await historyOf("s1")).toEqual({});
  expect(await database.get("stacks", "k4")).toBeUndefined();
  database.close();
});

test("shoots have histories of their own", async () => {
  const { change, historyOf, step, rate, database } = await begin();
  await rate(2);
  await change("s2", "New shoot", [{ store: "shoots", value: shootOf("s2") }]);
  expect(await step("s1", "undo")).toBe("Rate 2");
  expect(await historyOf("s2")).toEqual({ undo: "New shoot" });
  database.close();
});
