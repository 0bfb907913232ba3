import { jest } from "@jest/globals";
import { RhizomeError } from "../../core/error";
import type { BringInState } from "./bringIn";
import { emptyStorage, frameOf, stackOf } from "./forStorage";

type Inspected = { source: { name: string; blob: Blob } };

/** What the workers would answer: a file's content is its hash; one called damaged is. */
const inspect = async (_task: string, { source }: Inspected) => {
  const hash = await source.blob.text();
  if (hash === "damaged")
    throw new RhizomeError("damaged", `${source.name} is damaged.`, "take it out");
  const { info } = frameOf(hash, "");
  return {
    hash,
    size: source.blob.size,
    info: { ...info, name: source.name },
    thumbnail: new Uint8Array(4),
    signature: { levels: [] },
  };
};

/** The storage with workers that answer so, and all new frames in one stack. */
async function storage() {
  jest.unstable_mockModule("../work/pool", () => ({ pool: () => ({ threads: 1, run: inspect }) }));
  jest.unstable_mockModule("./arrange", () => ({
    newId: () => crypto.randomUUID(),
    arrange: (shootId: string, _frames: unknown, _stacks: unknown, mine: Set<string>) =>
      Promise.resolve([
        { store: "stacks", value: { ...stackOf("k1", shootId), frameIds: [...mine] } },
      ]),
  }));
  const { bringIn } = await import("./bringIn");
  const { db } = await import("./db");
  const d = await db();
  const stopper = new AbortController();
  let state: BringInState | undefined;
  const bring = (
    files: File[],
    options: { shootId?: string; report?: (s: BringInState) => void } = {},
  ) =>
    bringIn(files, {
      name: "Day one",
      signal: stopper.signal,
      grouped: () => undefined,
      ...options,
      report: (now) => {
        state = now;
        options.report?.(now);
      },
    });
  return { bring, d, stopper, reported: () => state! };
}

/** A file as a browser gives it: in no folder. */
const fileOf = (name: string, content = name): File =>
  Object.assign(new File([content], `${name}.jpg`, { type: "image/jpeg" }), {
    webkitRelativePath: "",
  });

beforeEach(() => {
  jest.resetModules();
  emptyStorage();
});

test("each frame is kept whole, with its original, and stands in a stack", async () => {
  const { bring, d } = await storage();
  const done = await bring(["b", "a", "c"].map((name) => fileOf(name)));
  expect([done.total, done.done, done.failed.length, done.finished]).toEqual([3, 3, 0, true]);
  const frames = await d.getAll("frames");
  expect(frames.map(({ info }) => info.name).sort()).toEqual(["a.jpg", "b.jpg", "c.jpg"]);
  for (const store of ["originals", "thumbnails", "appearances"] as const)
    expect((await d.getAllKeys(store)).sort()).toEqual(["a", "b", "c"]);
  const [stack] = await d.getAll("stacks");
  expect([...stack!.frameIds].sort()).toEqual(frames.map(({ id }) => id).sort());
  expect((await d.getAll("shoots"))[0]).toMatchObject({ id: done.shootId, name: "Day one" });
  d.close();
});

test("a file that cannot be read is named and the rest goes on; one that is here is not kept twice", async () => {
  const { bring, d } = await storage();
  const done = await bring([
    fileOf("a"),
    fileOf("bad", "damaged"),
    fileOf("again", "a"),
    fileOf("z"),
  ]);
  expect(done.failed.map(({ message }) => message)).toEqual(["bad.jpg is damaged."]);
  expect([done.known, await d.count("frames")]).toEqual([1, 2]);
  d.close();
});

test("with the storage full all files that are not kept are named, and none is said to be unreadable", async () => {
  const { bring, d } = await storage();
  const names = ["a", "b", "c", "d", "e"];
  const put = IDBObjectStore.prototype.put;
  IDBObjectStore.prototype.put = function (
    this: IDBObjectStore,
    value: unknown,
    key?: IDBValidKey,
  ) {
    if (this.name === "originals" && (key === "c" || key === "d" || key === "e"))
      throw new DOMException("no room", "QuotaExceededError");
    return put.call(this, value, key);
  };
  try {
    const done = await bring(names.map((name) => fileOf(name)));
    expect(done.full?.code).toBe("storage-full");
    expect([...done.notKept].sort()).toEqual(["c.jpg", "d.jpg", "e.jpg"]);
    expect([done.failed, done.done, await d.count("frames")]).toEqual([[], 5, 2]);
  } finally {
    IDBObjectStore.prototype.put = put;
  }
  d.close();
});

test("stopped, what is in stays in and is grouped", async () => {
  const { bring, d, stopper } = await storage();
  const done = await bring(
    ["a", "b", "c", "d", "e", "f"].map((name) => fileOf(name)),
    { report: ({ done: count }) => count >= 2 && stopper.abort() },
  );
  const count = await d.count("frames");
  expect(count).toBeGreaterThanOrEqual(2);
  expect(count).toBeLessThan(6);
  expect(done.finished).toBe(true);
  expect((await d.getAll("stacks"))[0]!.frameIds).toHaveLength(count);
  d.close();
});

test("a shoot that is deleted meanwhile gets no more frames", async () => {
  const { bring, d } = await storage();
  const names = ["a", "b", "c", "d", "e", "f"];
  let isDeleted = false;
  await bring(
    names.map((name) => fileOf(name)),
    {
      report: ({ done: count, shootId }) => {
        if (count < 2 || isDeleted) return;
        isDeleted = true;
        void d.delete("shoots", shootId!);
      },
    },
  ).catch((e: unknown) => expect(RhizomeError.from(e).code).toBe("stopped"));
  expect(await d.count("frames")).toBeLessThan(names.length);
  expect(await d.count("stacks")).toBe(0);
  d.close();
});

test("what a sidecar says goes with its frame, of its own folder alone", async () => {
  const { bring, d } = await storage();
  const beside = (name: string, path: string, text: string): File =>
    Object.assign(new File([text], name), { webkitRelativePath: path });
  const rated = (stars: number): string =>
    `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="${stars}"/></rdf:RDF></x:xmpmeta>`;
  await bring([
    beside("a.jpg", "one/a.jpg", "first"),
    beside("a.jpg", "two/a.jpg", "second"),
    beside("b.jpg", "two/b.jpg", "third"),
    beside("A.XMP", "one/A.XMP", rated(5)),
    beside("a.jpg.xmp", "two/a.jpg.xmp", rated(2)),
  ]);
  const frames = await d.getAll("frames");
  const ratings = frames.map(({ info }) => [info.folder, info.name, info.exif.rating]);
  expect(ratings.sort()).toEqual([
    ["one", "a.jpg", 5],
    ["two", "a.jpg", 2],
    ["two", "b.jpg", undefined],
  ]);
  d.close();
});
