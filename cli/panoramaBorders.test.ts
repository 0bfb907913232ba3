import { readFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { bedroom, frames, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("a panorama's borders: cut off, left empty with alpha, filled, or bent away", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const made = async (
    mode: string,
    ending: string,
  ): Promise<{
    image: Vips.Image;
    report: { suspects: { kind: string }[]; warnings: unknown[] };
  }> => {
    const file = join(folder.dir(), `${mode}.${ending}`);
    const report = join(folder.dir(), `${mode}.json`);
    const { code, err } = await run(
      "merge",
      ...frames(433, 3),
      "--as",
      "panorama",
      "--set",
      "panorama.width=900",
      "--set",
      `edges.mode=${mode}`,
      "--depth",
      "16",
      "--out",
      file,
      "--report",
      report,
    );
    expect([code, err]).toEqual([0, ""]);
    return {
      image: vips.Image.newFromBuffer(await readFile(file)),
      report: JSON.parse(await readFile(report, "utf8")) as {
        suspects: { kind: string }[];
        warnings: unknown[];
      },
    };
  };
  const black = (im: Vips.Image): number => im.extractBand(1).lessEq(64).avg() / 255;
  const crop = await made("crop", "png");
  const keep = await made("keep", "tif");
  const extend = await made("extend", "png");
  const rectangle = await made("rectangle", "png");
  expect([crop, extend, rectangle].map(({ image }) => image.bands)).toEqual([3, 3, 3]);
  expect(keep.image.bands).toBe(4);
  const alpha = keep.image.extractBand(3);
  expect([alpha.min(), alpha.max()]).toEqual([0, 65535]);
  // alpha tells just what is empty
  expect(Math.abs(black(keep.image) - alpha.equal(0).avg() / 255)).toBeLessThan(0.01);
  expect(black(keep.image)).toBeGreaterThan(0.01);
  for (const { image } of [crop, extend, rectangle]) expect(black(image)).toBeLessThan(2e-4);
  expect([extend.image.width, extend.image.height]).toEqual([keep.image.width, keep.image.height]);
  expect(crop.image.width * crop.image.height).toBeLessThan(
    rectangle.image.width * rectangle.image.height,
  );
  expect(extend.report.suspects.some((s) => s.kind === "filled")).toBe(true);
  expect(
    [crop, rectangle].flatMap(({ report }) => report.suspects.filter((s) => s.kind === "filled")),
  ).toEqual([]);
  expect(rectangle.report.warnings).toEqual([]);
  expect(
    await run(
      "merge",
      ...bedroom,
      "--as",
      "bracket",
      "--set",
      "edges.mode=rectangle",
      "--out",
      join(folder.dir(), "no.jpg"),
    ),
  ).toMatchObject({ code: 2, err: expect.stringMatching(/^rhizome: recipe-invalid/) as string });
});

test("a frame of a sweep that was taken twice is named and left out, unless it is asked for", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const again = join(folder.dir(), "again.jpg");
  const frame = vips.Image.newFromFile(frames(434, 1)[0]!);
  // a hand's width beside, and coded anew
  frame.embed(-6, -4, frame.width, frame.height, { extend: "copy" }).writeToFile(again, { Q: 88 });
  const made = async (...set: string[]) => {
    const report = join(folder.dir(), "twice.json");
    const { code, err } = await run(
      "merge",
      ...frames(433, 3),
      again,
      "--as",
      "panorama",
      "--set",
      "panorama.width=900",
      ...set,
      "--out",
      join(folder.dir(), "twice.jpg"),
      "--report",
      report,
    );
    expect([code, err]).toEqual([0, ""]);
    const r = JSON.parse(await readFile(report, "utf8")) as {
      panorama: { duplicates: unknown[]; leftOut: unknown[]; frames: unknown[] };
      warnings: { code: string }[];
    };
    return {
      ...r.panorama,
      frames: r.panorama.frames.length,
      codes: r.warnings.map((w) => w.code),
    };
  };
  expect(await made()).toEqual(
    expect.objectContaining({
      duplicates: [{ file: "again.jpg", of: "QM_0434.jpg" }],
      leftOut: [],
      frames: 3,
      codes: ["duplicate"],
    }),
  );
  expect(await made("--set", "panorama.duplicates=use")).toEqual(
    expect.objectContaining({ duplicates: [], frames: 4, codes: [] }),
  );
});

test("frames that do not overlap make no panorama, and say so", async () => {
  const { code, err } = await run(
    "merge",
    frames(412, 1)[0]!,
    bedroom[1]!,
    "--as",
    "panorama",
    "--out",
    join(folder.dir(), "none.jpg"),
  );
  expect(code).toBe(1);
  expect(err).toMatch(/^rhizome: no-overlap/);
});
