import { jest } from "@jest/globals";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import { random as seeded } from "../../core/math/random";
import { emptyStorage, frameOf, shootOf, stackOf } from "./forStorage";

/** Changes that each tab makes. */
const CHANGES = 200;

/** The browser's locks, as two tabs share them: one holder of a name at a time, in their order. */
function sharedLocks(): Pick<LockManager, "request"> {
  const last = new Map<string, Promise<unknown>>();
  return {
    request: ((name: string, work: () => Promise<unknown>) => {
      const mine = (last.get(name) ?? Promise.resolve()).then(work, work);
      last.set(
        name,
        mine.catch(() => undefined),
      );
      return mine;
    }) as LockManager["request"],
  };
}

/** A tab: its own modules, on the one storage and the one set of locks. */
async function tab() {
  jest.resetModules();
  const { runIntent } = await import("../workspace/state/action");
  const { runEdit } = await import("../board/editAction");
  const { exclusively } = await import("./exclusive");
  const { change, historyOf } = await import("./changes");
  const { readStack } = await import("./shoots");
  return { runIntent, runEdit, exclusively, change, historyOf, readStack };
}

const WHERE = { shoot: "s1", stack: "k1" };

beforeEach(async () => {
  emptyStorage();
  Object.assign(navigator, { locks: sharedLocks() });
  const { exclusively, change } = await tab();
  await exclusively((writer) =>
    change(
      writer,
      "s1",
      "",
      [
        { store: "shoots", value: shootOf("s1") },
        { store: "stacks", value: stackOf("k1", "s1") },
        { store: "frames", value: frameOf("f1", "s1") },
        { store: "frames", value: frameOf("f2", "s1") },
        {
          store: "takes",
          value: {
            id: "t1",
            stackId: "k1",
            shootId: "s1",
            name: "First",
            note: "",
            order: 0,
            recipe: defaultRecipe("bracket"),
          },
        },
      ],
      { undoable: false },
    ),
  );
});

test("of 200 random changes in each of two tabs none is lost, and all are taken back", async () => {
  const tabs = [await tab(), await tab()];
  const before = await tabs[0]!.readStack("s1", "k1");
  const random = seeded(11);
  const tasks = tabs.flatMap((one, t) =>
    Array.from({ length: CHANGES }, (_, i) => async () => {
      const kind = Math.floor(random() * 2);
      if (kind === 0)
        return one.runIntent(WHERE, { intent: "accept", key: `tab ${t} change ${i}` });
      const edit = { intent: "note", stack: "k1", note: `tab ${t} change ${i}` };
      await one.exclusively((writer) => one.runEdit(writer, "s1", edit));
      return {};
    }),
  );
  // both tabs at once, their changes between each other's
  tasks.sort(() => random() - 0.5);
  const outcomes = await Promise.all(tasks.map((task) => task()));
  expect(outcomes.filter(({ failed }) => failed)).toEqual([]);

  const [here, there] = await Promise.all(tabs.map((one) => one.readStack("s1", "k1")));
  expect(here!.stack).toEqual(there!.stack);
  const accepts = here!.stack.accepted.length;
  expect(new Set(here!.stack.accepted).size).toBe(accepts);
  let undone = 0;
  for (let t = 0; (await tabs[0]!.historyOf("s1")).undo; t++) {
    await tabs[t % 2]!.runIntent(WHERE, { intent: "undo" });
    undone++;
  }
  expect(undone).toBe(2 * CHANGES);
  expect((await tabs[1]!.readStack("s1", "k1")).stack).toEqual(before.stack);
  expect(accepts).toBeGreaterThan(CHANGES / 2);
});

test("two tabs that change different settings of one recipe keep both", async () => {
  const [a, b] = [await tab(), await tab()];
  const patch = (path: string[], value: unknown) => ({
    intent: "recipe",
    take: "t1",
    label: "Change",
    patches: [{ op: "replace", path, value }],
  });
  await Promise.all([
    a.runIntent(WHERE, patch(["tone", "strength"], 0.25)),
    b.runIntent(WHERE, patch(["finish", "whole", "contrast"], 0.125)),
  ]);
  const { tone, finish } = (await a.readStack("s1", "k1")).take.recipe;
  expect([tone.strength, finish.whole.contrast]).toEqual([0.25, 0.125]);
  // what one of them takes back leaves the other's alone
  await b.runIntent(WHERE, { intent: "undo" });
  const now = (await a.readStack("s1", "k1")).take.recipe;
  expect([now.tone.strength, now.finish.whole.contrast]).toEqual([0.25, 0]);
});

test.each([
  [{ intent: "explode" }],
  [
    {
      intent: "recipe",
      take: "t1",
      patches: [{ op: "replace", path: ["tone", "strength"], value: "much" }],
      label: "x",
    },
  ],
  [undefined],
])("a request that makes no sense changes nothing, and that is said: %j", async (request) => {
  const one = await tab();
  const before = await one.readStack("s1", "k1");
  expect((await one.runIntent(WHERE, request)).failed).toBeTruthy();
  expect((await one.readStack("s1", "k1")).take).toEqual(before.take);
  expect(await one.historyOf("s1")).toEqual({});
});
