import { readFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { readExif } from "../codecs/exif";
import { bedroom, frames, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test.each([
  ["tif", "ushort", 16],
  ["png", "ushort", 16],
  ["jpg", "uchar", 8],
  ["hdr", "float", 32],
])("merge writes .%s", async (ending, format) => {
  const file = join(folder.dir(), `out.${ending}`);
  const report = join(folder.dir(), "report.json");
  expect(
    await run("merge", ...bedroom, "--as", "bracket", "--out", file, "--report", report),
  ).toMatchObject({ code: 0, out: "", err: "" });
  const vips = await Vips({ dynamicLibraries: [] });
  const image = vips.Image.newFromBuffer(await readFile(file));
  const decoded = ending === "hdr" ? image.rad2float() : image;
  expect([decoded.width, decoded.height, decoded.format]).toEqual([2160, 1440, format]);
  // the reference frame's EXIF, by a reader of its own
  if (ending === "tif" || ending === "jpg")
    expect(readExif(await readFile(file))).toMatchObject({
      aperture: 5.6,
      exposureTime: 1,
      iso: 200,
      camera: "Quillmoor Stand-in 24",
      lens: "Stand-in 20 mm",
    });
  expect(JSON.parse(await readFile(report, "utf8"))).toMatchObject({
    kind: "bracket",
    reference: 1,
    output: { width: 2160, height: 1440 },
  });
});

test.each([
  ["png", 16],
  ["jpg", 8],
])("a smaller .%s is what an independent Lanczos makes of the whole one", async (ending, bits) => {
  const whole = join(folder.dir(), `whole.${ending}`);
  const small = join(folder.dir(), `small.${ending}`);
  const vips = await Vips({ dynamicLibraries: [] });
  for (const [file, size] of [
    [whole, "full"],
    [small, "long 800"],
  ] as const)
    expect(
      (
        await run(
          "merge",
          ...bedroom,
          "--as",
          "bracket",
          "--set",
          `deliver.size=${size}`,
          "--set",
          "deliver.quality=98",
          "--out",
          file,
        )
      ).code,
    ).toBe(0);
  const a = vips.Image.newFromBuffer(await readFile(small));
  const b = vips.Image.newFromBuffer(await readFile(whole)).resize(800 / 2160, {
    kernel: "lanczos3",
  });
  expect([a.width, a.height]).toEqual([800, 533]);
  const error = a
    .subtract(b.crop(0, 0, 800, 533))
    .abs()
    .avg();
  // rows lie a little apart, since 1440 px do not fill 533 rows evenly
  expect(error / 2 ** bits).toBeLessThan(0.006);
});

test("one thread and two, the whole at once and band by band in little memory give the same bytes", async () => {
  const [a, b, c] = ["a.tif", "b.tif", "c.tif"].map((f) => join(folder.dir(), f)) as [
    string,
    string,
    string,
  ];
  for (const [file, threads, memory] of [
    [a, "1", "2048"],
    [b, "2", "2048"],
    [c, "2", "400"],
  ] as const)
    expect(
      (
        await run(
          "merge",
          ...frames(412, 3),
          "--as",
          "bracket",
          "--out",
          file,
          "--depth",
          "32f",
          "--space",
          "linear",
          "--set",
          "tone.operator=none",
          "--threads",
          threads,
          "--memory",
          memory,
        )
      ).code,
    ).toBe(0);
  for (const other of [b, c])
    expect(Buffer.compare(await readFile(a), await readFile(other))).toBe(0);
});
