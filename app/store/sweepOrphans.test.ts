import { jest } from "@jest/globals";
import { emptyStorage, frameOf, shootOf, stackOf } from "./forStorage";

beforeEach(() => {
  jest.resetModules();
  emptyStorage();
});

test("what belongs to no shoot goes, what belongs to one stays", async () => {
  const { db } = await import("./db");
  const { sweepOrphans } = await import("./sweepOrphans");
  const d = await db();
  await d.put("shoots", shootOf("s1"));
  for (const shoot of ["s1", "gone"]) {
    await d.put("frames", frameOf(`f ${shoot}`, shoot));
    await d.put("stacks", stackOf(`k ${shoot}`, shoot));
    for (const store of ["originals", "thumbnails"] as const)
      await d.put(store, new Blob(["x"]), `hash f ${shoot}`);
  }
  await d.put("originals", new Blob(["x"]), "of no frame");
  expect(await sweepOrphans()).toBe(5);
  expect(await d.getAllKeys("frames")).toEqual(["f s1"]);
  expect(await d.getAllKeys("stacks")).toEqual(["k s1"]);
  expect(await d.getAllKeys("originals")).toEqual(["hash f s1"]);
  expect(await sweepOrphans()).toBe(0);
  d.close();
});

test("files of frames that an undo took away stay for the redo", async () => {
  const { db } = await import("./db");
  const { exclusively } = await import("./exclusive");
  const { change, step } = await import("./changes");
  const { sweepOrphans } = await import("./sweepOrphans");
  const d = await db();
  await d.put("shoots", shootOf("s1"));
  await d.put("originals", new Blob(["x"]), "hash f1");
  await exclusively(async (writer) => {
    await change(writer, "s1", "Bring in", [{ store: "frames", value: frameOf("f1", "s1") }]);
    await step(writer, "s1", "undo");
  });
  expect(await d.count("frames")).toBe(0);
  expect(await sweepOrphans()).toBe(0);
  expect(await d.count("originals")).toBe(1);
  d.close();
});
