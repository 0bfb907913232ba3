import { jest } from "@jest/globals";
import { emptyStorage, frameOf } from "./forStorage";

const MODIFIED = 1700000000000;

/** A folder as the browser gives it, of files by their paths; it may be read or not. */
function folderOn(files: Record<string, string>, state = { permission: "granted" }) {
  const at = (above: string): object => ({
    name: "card",
    kind: "directory",
    queryPermission: () => Promise.resolve(state.permission),
    requestPermission: () => Promise.resolve((state.permission = "granted")),
    isSameEntry: (other: { files?: unknown }) => Promise.resolve(other.files === files),
    files,
    getDirectoryHandle: (name: string) => Promise.resolve(at(`${above}${name}/`)),
    getFileHandle: (name: string) => {
      const text = files[above + name];
      if (text === undefined) return Promise.reject(new DOMException("gone", "NotFoundError"));
      const file = new File([text], name, { lastModified: MODIFIED });
      return Promise.resolve({ getFile: () => Promise.resolve(file) });
    },
  });
  return { folder: at("") as never, state };
}

/**
 * The storage with a folder in it. What cannot be cloned here can in a browser, so the settings are
 * a map of their own.
 */
async function storage(files: Record<string, string>, permission = "granted") {
  jest.resetModules();
  emptyStorage();
  const settings = new Map<string, unknown>();
  jest.unstable_mockModule("./db", () => ({
    db: () =>
      Promise.resolve({
        get: (store: string, key: string) =>
          Promise.resolve(store === "settings" ? settings.get(key) : undefined),
        put: (_store: string, value: unknown, key: string) =>
          Promise.resolve(void settings.set(key, value)),
        getAllKeys: () => Promise.resolve([...settings.keys()]),
      }),
  }));
  const linked = await import("./linkedFolders");
  const { readOriginal, readOriginals } = await import("./originals");
  const { folder, state } = folderOn(files, { permission });
  const id = await linked.keepFolder(folder);
  const frame = (path: string[], more = {}) => ({
    ...frameOf(path.at(-1)!, "s"),
    size: files[path.join("/")]?.length ?? 1,
    link: { folder: id, path, modified: MODIFIED, ...more },
  });
  return { ...linked, readOriginal, readOriginals, folder, state, id, frame };
}

test("a frame that stayed on the disk is read from its place in the folder", async () => {
  const { readOriginal, frame } = await storage({ "one/a.jpg": "first", "two/a.jpg": "second" });
  expect(await (await readOriginal(frame(["two", "a.jpg"]))).text()).toBe("second");
});

test.each([
  ["gone", ["b.jpg"], {}, "frame-gone"],
  ["changed since", ["a.jpg"], { modified: 5 }, "frame-changed"],
  ["in a folder that is not known", ["a.jpg"], { folder: "elsewhere" }, "frame-gone"],
])("a file that is %s is named", async (_what, path, more, code) => {
  const { readOriginals, frame } = await storage({ "a.jpg": "x" });
  const { originals, unread } = await readOriginals([frame(path, more), frame(["a.jpg"])]);
  expect(originals.size).toBe(1);
  expect(unread).toMatchObject([{ code, message: expect.stringContaining(path[0]!) }]);
});

test("a folder that may not be read is named, and read once it is allowed", async () => {
  const { closedFolders, openFolders, readOriginal, frame, id } = await storage(
    { "a.jpg": "x" },
    "prompt",
  );
  const one = frame(["a.jpg"]);
  await expect(readOriginal(one)).rejects.toMatchObject({ code: "folder-closed" });
  expect(await closedFolders([one])).toEqual([{ id, name: "card" }]);
  await openFolders([id]);
  expect(await closedFolders([one])).toEqual([]);
  expect(await (await readOriginal(one)).text()).toBe("x");
});

test("the same folder is kept once", async () => {
  const { keepFolder, folder, id } = await storage({});
  expect(await keepFolder(folder)).toBe(id);
});
