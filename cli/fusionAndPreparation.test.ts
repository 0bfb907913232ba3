import { readFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { bedroom, frames, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("a fusion leaves one frame as it is, and stays the same for any count of threads", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const out = (k: string): string => join(folder.dir(), `fused-${k}.png`);
  expect(
    (
      await run(
        "merge",
        bedroom[1]!,
        "--as",
        "bracket",
        "--set",
        "merge.method=fusion",
        "--out",
        out("one"),
      )
    ).code,
  ).toBe(0);
  const a = vips.Image.newFromBuffer(await readFile(bedroom[1]!));
  const b = vips.Image.newFromBuffer(await readFile(out("one")));
  const apart = a.multiply(257).subtract(b).abs().max();
  expect(apart).toBeLessThan(300);
  for (const t of ["1", "2"])
    expect(
      (
        await run(
          "merge",
          ...bedroom,
          "--as",
          "bracket",
          "--set",
          "merge.method=fusion",
          "--threads",
          t,
          "--out",
          out(t),
        )
      ).code,
    ).toBe(0);
  expect(Buffer.compare(await readFile(out("1")), await readFile(out("2")))).toBe(0);
});

test("frames prepared before the merge: lighter corners, less noise, and the same bytes for any count of threads", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const made = async (name: string, ...set: string[]): Promise<Buffer> => {
    const file = join(folder.dir(), `${name}.png`);
    expect(
      await run(
        "merge",
        bedroom[0]!,
        "--as",
        "bracket",
        "--set",
        "tone.operator=plain",
        "--depth",
        "8",
        ...set,
        "--out",
        file,
      ),
    ).toMatchObject({ code: 0, err: "" });
    return readFile(file);
  };
  const corner = (b: Buffer): number => vips.Image.newFromBuffer(b).crop(2000, 100, 120, 120).avg();
  const rough = (b: Buffer): number => {
    const im = vips.Image.newFromBuffer(b).crop(1600, 200, 200, 200).extractBand(1).cast("float");
    return im.subtract(im.gaussblur(2)).deviate();
  };
  const plain = await made("as-taken");
  const lens = ["prepare.distortion=0.05", "prepare.vignetting=0.3", "prepare.fringeRed=2"].flatMap(
    (x) => ["--set", x],
  );
  expect(corner(await made("corners", "--set", "prepare.vignetting=0.3"))).toBeGreaterThan(
    corner(plain) * 1.05,
  );
  expect(rough(await made("smooth", "--set", "prepare.noise=1"))).toBeLessThan(0.8 * rough(plain));
  const one = await made("one-thread", ...lens, "--set", "prepare.noise=0.5", "--threads", "1");
  const two = await made("two-threads", ...lens, "--set", "prepare.noise=0.5", "--threads", "2");
  expect(Buffer.compare(one, two)).toBe(0);
  expect(
    (
      await run(
        "merge",
        bedroom[0]!,
        "--as",
        "bracket",
        "--set",
        "prepare.distortion=2",
        "--out",
        join(folder.dir(), "never.png"),
      )
    ).code,
  ).toBe(2);
});

test("a bracket hand-held is cropped to what all frames cover, when asked to", async () => {
  const file = join(folder.dir(), "cropped.jpg");
  const report = join(folder.dir(), "cropped.json");
  const size = async (...set: string[]): Promise<[number, number]> => {
    expect(
      (
        await run(
          "merge",
          ...frames(417, 3),
          "--as",
          "bracket",
          ...set,
          "--out",
          file,
          "--report",
          report,
        )
      ).code,
    ).toBe(0);
    const { output } = JSON.parse(await readFile(report, "utf8")) as {
      output: { width: number; height: number };
    };
    return [output.width, output.height];
  };
  expect(await size()).toEqual([2160, 1440]);
  const [width, height] = await size("--set", "edges.mode=crop");
  expect(width).toBeLessThan(2160);
  expect(width).toBeGreaterThan(2060);
  expect(height).toBeLessThan(1440);
  expect(height).toBeGreaterThan(1370);
});
