import { zipSync } from "fflate";
import { listZip, unpackZipped } from "./zip";

const MIB = 2 ** 20;
/** An index entry's mark, and where in it the size, the unpacked size and the method stand. */
const ENTRY_MARK = 0x02014b50;
const UNPACKED_AT = 24;
const METHOD_AT = 10;

const content = (n: number): Uint8Array => Uint8Array.from({ length: n }, (_, i) => (i * 37) % 251);

/** A zip in which each entry of the index can be changed afterwards. */
function zipOf(
  files: Record<string, Uint8Array>,
  change: (view: DataView, at: number, nth: number) => void = () => undefined,
): Blob {
  const bytes = zipSync(files, { level: 1 });
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let nth = 0;
  for (let at = 0; at + 4 <= bytes.length; at++)
    if (view.getUint32(at, true) === ENTRY_MARK) change(view, at, nth++);
  return new Blob([bytes as BlobPart]);
}

describe("a zip of frames", () => {
  test("gives its pictures by their names without folders, each as it was packed", async () => {
    const zip = zipOf({
      "day/one/a.jpg": content(5000),
      "../../up.png": content(300),
      "./here.tif": content(10),
      ".hidden.jpg": content(20),
      "day/": new Uint8Array(0),
      "__MACOSX/day/._a.jpg": content(5),
    });
    const { pictures, leftOut } = await listZip(zip, "day.zip");
    expect(pictures.map(({ name }) => name)).toEqual([
      "a.jpg",
      "up.png",
      "here.tif",
      ".hidden.jpg",
    ]);
    expect(pictures.map(({ folder }) => folder)).toEqual(["day/one", "", "", ""]);
    expect(leftOut).toEqual([]);
    const unpacked = await unpackZipped(zip, "day.zip", pictures[0]!);
    expect(new Uint8Array(await unpacked.arrayBuffer())).toEqual(content(5000));
  });

  test("gives what is said beside its pictures apart from them", async () => {
    const zip = zipOf({ "a/b.jpg": content(50), "a/b.xmp": content(9) });
    const { pictures, sidecars, leftOut } = await listZip(zip, "day.zip");
    expect([pictures.length, leftOut.length]).toEqual([1, 0]);
    expect(sidecars).toMatchObject([{ name: "b.xmp", folder: "a" }]);
  });

  test("names what it leaves out", async () => {
    const zip = zipOf({ "a.jpg": content(50), "notes.txt": content(9), "more.zip": content(9) });
    const { pictures, leftOut } = await listZip(zip, "day.zip");
    expect(pictures).toHaveLength(1);
    expect(leftOut.map(({ message }) => message.split(" ")[0])).toEqual(["notes.txt", "more.zip"]);
  });

  test("does not unpack more than its index says", async () => {
    const zip = zipOf({ "a.jpg": new Uint8Array(8 * MIB) }, (view, at) =>
      view.setUint32(at + UNPACKED_AT, 1000, true),
    );
    const { pictures } = await listZip(zip, "lies.zip");
    await expect(unpackZipped(zip, "lies.zip", pictures[0]!)).rejects.toMatchObject({
      code: "damaged",
      message: expect.stringContaining("a.jpg in lies.zip"),
    });
  });

  test("leaves out what is packed as no picture is", async () => {
    const zip = zipOf({ "bomb.tif": new Uint8Array(70 * MIB), "a.jpg": content(90) });
    const { pictures, leftOut } = await listZip(zip, "bomb.zip");
    expect(pictures.map(({ name }) => name)).toEqual(["a.jpg"]);
    expect(leftOut[0]!.message).toContain("bomb.tif");
  });

  test("one file that cannot be unpacked leaves the others alone", async () => {
    const strange = 93;
    const zip = zipOf({ "a.jpg": content(900), "b.jpg": content(900) }, (view, at, nth) => {
      if (nth === 0) view.setUint16(at + METHOD_AT, strange, true);
    });
    const { pictures } = await listZip(zip, "mixed.zip");
    await expect(unpackZipped(zip, "mixed.zip", pictures[0]!)).rejects.toThrow("a.jpg");
    const good = await unpackZipped(zip, "mixed.zip", pictures[1]!);
    expect(good.size).toBe(900);
  });

  test.each([0, 10, 400])("cut to %d bytes is called damaged by its name", async (length) => {
    const zip = zipOf({ "a.jpg": content(5000) }).slice(0, length);
    await expect(listZip(zip, "cut.zip")).rejects.toMatchObject({
      code: "damaged",
      message: expect.stringContaining("cut.zip"),
    });
  });
});
