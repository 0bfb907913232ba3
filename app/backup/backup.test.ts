import { jest } from "@jest/globals";
import { unzipSync, zipSync } from "fflate";
import { makeSignature } from "../../core/grouping/signature";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import { emptyStorage, frameOf, shootOf, stackOf } from "../store/forStorage";
import { checksum } from "./checksum";

const NEVER = new AbortController().signal;
const SHOOT = "9c1b0c52-0000-4000-8000-000000000001";
const OTHER = "9c1b0c52-0000-4000-8000-000000000002";

/** What is in the original of a frame: bytes of its own. */
const contentOf = (id: string): Blob => new Blob([`original of ${id}, `.repeat(300)]);

/** The modules over an empty database. */
async function fresh() {
  jest.resetModules();
  emptyStorage();
  const { db } = await import("../store/db");
  const { writeBackup } = await import("./writeBackup");
  const { openBackup } = await import("./openBackup");
  const { compareBackup, restoreBackup } = await import("./restore");
  const d = await db();
  const restore = async (zip: Blob, how: "missing" | "copy" = "missing") => {
    const backup = await openBackup(zip, "b.zip");
    const choices = Object.fromEntries(backup.shoots.map(({ folder }) => [folder, how]));
    return restoreBackup(backup, choices, () => undefined, NEVER);
  };
  return { d, writeBackup, openBackup, compareBackup, restoreBackup, restore };
}
type Fresh = Awaited<ReturnType<typeof fresh>>;

/** Puts a shoot of two stacks with two frames each into the storage. */
async function putShoot({ d }: Fresh, id = SHOOT, name = "Roof / ridge"): Promise<void> {
  await d.put("shoots", { ...shootOf(id), name, note: "windy" });
  const signature = makeSignature({
    samples: new Uint8Array(12 * 8 * 3).fill(90),
    lut: new Float32Array(768).fill(0.5),
    width: 12,
    height: 8,
  } as never);
  for (const n of ["1", "2", "3", "4"]) {
    const frameId = `${id}f${n}`;
    const hash = await checksum(contentOf(frameId));
    const frame = frameOf(frameId, id);
    const info = { ...frame.info, name: "QM_0412.jpg", folder: `card/${n}` };
    await d.put("frames", { ...frame, hash, info });
    await d.put("originals", contentOf(frameId), hash);
    await d.put("thumbnails", new Blob([`thumbnail ${n}`]), hash);
    await d.put("appearances", signature, hash);
  }
  for (const [i, n] of ["a", "b"].entries()) {
    const stack = stackOf(`${id}s${n}`, id);
    const frameIds = [`${id}f${2 * i + 1}`, `${id}f${2 * i + 2}`];
    await d.put("stacks", { ...stack, frameIds, takeId: `${id}t${n}`, rating: 4, order: i });
    const take = { id: `${id}t${n}`, stackId: stack.id, shootId: id, name: "First", note: "" };
    await d.put("takes", { ...take, order: 0, recipe: defaultRecipe("bracket") });
    await d.put("results", {
      id: stack.id,
      shootId: id,
      key: "k",
      picture: new Blob([`picture ${n}`], { type: "image/jpeg" }),
      rangeEv: 8,
      residualPx: 0.1,
    });
  }
}

async function backupOf(storage: Fresh, shoots = [SHOOT], withHistory = true): Promise<Blob> {
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const sink = new WritableStream<Uint8Array<ArrayBuffer>>({
    write: (bytes) => void parts.push(bytes.slice()),
  });
  await storage.writeBackup({ shoots, withHistory, withOwn: true }, sink, () => undefined, NEVER);
  return new Blob(parts);
}

/** All of the storage as plain data, blobs as their text. */
async function contents({ d }: Fresh): Promise<unknown> {
  const plain = async (value: unknown): Promise<unknown> => {
    if (value instanceof Blob) return value.text();
    if (Array.isArray(value)) return Promise.all(value.map(plain));
    if (typeof value !== "object" || value === null || ArrayBuffer.isView(value)) return value;
    return Object.fromEntries(
      await Promise.all(Object.entries(value).map(async ([k, e]) => [k, await plain(e)] as const)),
    );
  };
  const stores = ["shoots", "frames", "stacks", "takes", "results", "looks"] as const;
  const files = ["originals", "thumbnails", "appearances"] as const;
  return Promise.all([
    ...stores.map(async (store) => plain(await d.getAll(store))),
    ...files.map(async (store) => plain([await d.getAllKeys(store), await d.getAll(store)])),
  ]);
}

let here: Fresh;
beforeEach(async () => {
  here = await fresh();
  await putShoot(here);
});
afterEach(() => here.d.close());

/** Another browser, with nothing in it. */
async function elsewhere(): Promise<Fresh> {
  here.d.close();
  here = await fresh();
  return here;
}

describe("a backup", () => {
  test("is a zip that others open, with the originals as they came in", async () => {
    const zip = await backupOf(here);
    const files = unzipSync(new Uint8Array(await zip.arrayBuffer()));
    const beside = Object.entries(files).filter(([path]) => path.includes("/originals/"));
    const originals = beside.filter(([path]) => path.endsWith(".jpg"));
    expect(originals).toHaveLength(4);
    // what is said of each goes along in a way that other programs read
    expect(beside.filter(([path]) => path.endsWith(".xmp"))).toHaveLength(4);
    for (const [path, bytes] of originals) {
      expect(path).toMatch(/^shoots\/Roof _ ridge\/originals\/card\/\d\/QM_0412\.jpg$/);
      expect(bytes.length).toBe(contentOf(`${SHOOT}f1`).size);
    }
    const index = JSON.parse(Buffer.from(files["backup.json"]!).toString());
    expect(index).toMatchObject({ version: 1, shoots: [{ id: SHOOT, frames: 4, stacks: 2 }] });
    expect(index.files).toHaveLength(Object.keys(files).length - 1);
  });

  test("restored elsewhere, everything is as it was", async () => {
    const before = await contents(here);
    const zip = await backupOf(here);
    const other = await elsewhere();
    const restored = await other.restore(zip);
    expect(restored).toEqual({ frames: 4, stacks: 2, problems: [] });
    expect(await contents(other)).toEqual(before);
  });

  test("own deliveries go along, and leave alone those of the same name", async () => {
    const { BUILT_IN_DELIVERIES } = await import("../../pipeline/deliver/deliveries");
    const own = (name: string, quality: number) => {
      const { settings } = BUILT_IN_DELIVERIES[0]!;
      return { name, on: true, settings: { ...settings, quality } };
    };
    await here.d.put("settings", [own("Proofs", 60), own("Large", 95)], "deliveries");
    const zip = await backupOf(here);
    const other = await elsewhere();
    await other.d.put("settings", [own("Proofs", 80)], "deliveries");
    await other.restore(zip);
    expect(await other.d.get("settings", "deliveries")).toMatchObject([
      { name: "Proofs", settings: { quality: 80 } },
      { name: "Large", settings: { quality: 95 } },
    ]);
  });

  test("restored twice changes nothing the second time", async () => {
    const zip = await backupOf(here);
    const other = await elsewhere();
    await other.restore(zip);
    const once = await contents(other);
    expect(await other.restore(zip)).toEqual({ frames: 0, stacks: 0, problems: [] });
    expect(await contents(other)).toEqual(once);
  });

  test("brings back what is missing, and leaves what was changed since", async () => {
    const zip = await backupOf(here);
    const [first] = await here.d.getAll("frames");
    await here.d.delete("originals", first!.hash);
    await here.d.delete("stacks", `${SHOOT}sb`);
    const changed = { ...(await here.d.get("stacks", `${SHOOT}sa`))!, rating: 1 };
    await here.d.put("stacks", changed);
    const [compared] = await here.compareBackup(await here.openBackup(zip, "b.zip"));
    expect(compared).toMatchObject({ isHere: true, missing: 1 });
    await here.restore(zip);
    expect(await here.d.get("originals", first!.hash)).toBeDefined();
    expect((await here.d.get("stacks", `${SHOOT}sb`))?.rating).toBe(4);
    expect((await here.d.get("stacks", `${SHOOT}sa`))?.rating).toBe(1);
  });

  test("as a copy stands beside the shoot, under a name of its own, whole in itself", async () => {
    const zip = await backupOf(here);
    await here.restore(zip, "copy");
    const shoots = await here.d.getAll("shoots");
    expect(shoots.map(({ name }) => name).sort()).toEqual(["Roof / ridge", "Roof / ridge 2"]);
    const copy = shoots.find(({ id }) => id !== SHOOT)!;
    const [frames, stacks, takes] = await Promise.all([
      here.d.getAllFromIndex("frames", "shootId", copy.id),
      here.d.getAllFromIndex("stacks", "shootId", copy.id),
      here.d.getAllFromIndex("takes", "shootId", copy.id),
    ]);
    const ids = frames.map(({ id }) => id);
    expect(stacks.flatMap(({ frameIds }) => frameIds).sort()).toEqual(ids.sort());
    for (const { id, takeId } of stacks)
      expect(takes.find((take) => take.id === takeId)?.stackId).toBe(id);
  });

  test("of several shoots of the same name keeps them apart", async () => {
    await putShoot(here, OTHER);
    const zip = await backupOf(here, [SHOOT, OTHER]);
    const other = await elsewhere();
    expect((await other.restore(zip)).frames).toBe(8);
    expect(await other.d.count("shoots")).toBe(2);
  });

  test("is stopped when it is asked to, and nothing is called whole", async () => {
    const stopper = new AbortController();
    stopper.abort();
    const sink = new WritableStream<Uint8Array<ArrayBuffer>>();
    const options = { shoots: [SHOOT], withHistory: false, withOwn: true };
    await expect(
      here.writeBackup(options, sink, () => undefined, stopper.signal),
    ).rejects.toMatchObject({ code: "stopped" });
    const zip = await backupOf(here);
    const other = await elsewhere();
    const backup = await other.openBackup(zip, "b.zip");
    const halfway = new AbortController();
    const stop = (share: number): void => {
      if (share >= 0.5) halfway.abort();
    };
    const choices = { [backup.shoots[0]!.folder]: "missing" as const };
    await expect(other.restoreBackup(backup, choices, stop, halfway.signal)).rejects.toMatchObject({
      code: "stopped",
    });
    expect(await other.d.get("shoots", SHOOT)).toMatchObject({ partial: true });
    await other.restore(zip);
    const shoot = await other.d.get("shoots", SHOOT);
    expect(shoot).toBeDefined();
    expect(shoot).not.toHaveProperty("partial");
    expect(await other.d.count("stacks")).toBe(2);
  });
});

describe("a damaged backup", () => {
  const bytesOf = async (): Promise<Uint8Array<ArrayBuffer>> =>
    new Uint8Array(await (await backupOf(here)).arrayBuffer());

  test("that was cut gives back what is whole, and names the rest", async () => {
    const bytes = await bytesOf();
    const cutIn = Buffer.from(bytes).indexOf(`original of ${SHOOT}f3`) + 500;
    const other = await elsewhere();
    const restored = await other.restore(new Blob([bytes.slice(0, cutIn)]));
    expect(await other.d.count("frames")).toBe(4);
    expect(await other.d.count("originals")).toBe(2);
    expect(restored.problems.join(" ")).toMatch(/damaged/);
    expect(restored.problems.filter((said) => said.includes("QM_0412.jpg"))).toHaveLength(2);
  });

  test("with bytes changed in one original loses that one alone", async () => {
    const bytes = await bytesOf();
    const at = Buffer.from(bytes).indexOf(`original of ${SHOOT}f2`);
    bytes[at + 40] = bytes[at + 40]! ^ 255;
    const other = await elsewhere();
    const restored = await other.restore(new Blob([bytes]));
    expect(await other.d.count("originals")).toBe(3);
    expect(restored.problems).toHaveLength(1);
  });

  test("whose list of files is broken is read by the shoots' own files", async () => {
    const bytes = await bytesOf();
    const at = Buffer.from(bytes).indexOf("rhizome backup");
    bytes[at] = 0;
    const other = await elsewhere();
    await other.restore(new Blob([bytes]));
    expect(await other.d.count("originals")).toBe(4);
    expect(await other.d.count("stacks")).toBe(2);
  });

  test("cut or changed anywhere, nothing throws but a named error", async () => {
    const bytes = await bytesOf();
    for (let i = 0; i < 16; i++) {
      const at = Math.floor((bytes.length * (i + 0.5)) / 16);
      const bad = i % 2 ? bytes.slice(0, at) : bytes.slice();
      if (i % 2 === 0) bad.fill(7, at, at + 9);
      const other = await elsewhere();
      const outcome = await other.restore(new Blob([bad])).catch((e: unknown) => e);
      expect(outcome).toEqual(
        outcome instanceof Error
          ? expect.objectContaining({ code: "not-a-backup" })
          : expect.objectContaining({ problems: expect.any(Array) }),
      );
    }
  }, 60000);

  test.each([
    ["not a zip at all", "not-a-backup"],
    ["", "not-a-backup"],
  ])("%p is no backup", async (text, code) => {
    await expect(here.restore(new Blob([text]))).rejects.toMatchObject({ code });
  });

  test("of a newer version is refused, and says what to do", async () => {
    const index = { format: "rhizome backup", version: 9, madeAt: 1, shoots: [], files: [] };
    const file = new TextEncoder().encode(JSON.stringify(index));
    const blob = new Blob([zipSync({ "backup.json": file }) as BlobPart]);
    await expect(here.restore(blob)).rejects.toMatchObject({ code: "backup-newer" });
  });
});
