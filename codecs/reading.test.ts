import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { apply } from "../core/math/matrix3";
import { toWorking } from "../core/colour/spaces";
import { inputFormatOf } from "./inputFormats";
import {
  H,
  W,
  codec,
  input,
  ownFolder,
  picture,
  value,
  working,
  worst,
  written,
} from "../tests/files/codecs";

const folder = ownFolder();

describe("reading what other programs wrote", () => {
  test.each([
    ["a.png", ["8.ppm"], 8, 0.01],
    ["b.png", ["16.ppm", "-define", "png:bit-depth=16"], 16, 1e-4],
    ["a.jpg", ["8.ppm", "-quality", "98", "-sampling-factor", "1x1"], 8, 0.06],
    ["none.tif", ["16.ppm", "-compress", "none"], 16, 1e-4],
    ["lzw.tif", ["16.ppm", "-compress", "lzw"], 16, 1e-4],
    ["zip.tif", ["8.ppm", "-compress", "zip"], 8, 0.01],
    ["big.tif", ["16.ppm", "-endian", "MSB"], 16, 1e-4],
    ["tiles.tif", ["8.ppm", "-define", "tiff:tile-geometry=32x32"], 8, 0.01],
    ["alpha.tif", ["16.ppm", "-alpha", "set"], 16, 1e-4],
    [
      "float.tif",
      ["16.ppm", "-compress", "zip", "-define", "quantum:format=floating-point", "-depth", "32"],
      32,
      1e-4,
    ],
    ["a.webp", ["8.ppm", "-define", "webp:lossless=true"], 8, 0.01],
    ["a.avif", ["8.ppm", "-quality", "95"], 8, 0.12],
  ] as const)("%s", async (name, args, depth, close) => {
    folder.tool("convert", ...args, name);
    const bytes = readFileSync(join(folder.dir(), name));
    const info = await codec.inspect(bytes, name);
    expect([info.width, info.height, info.depth]).toEqual([W, H, depth]);
    // floats without a profile are taken as light itself
    expect(worst(await codec.decode(bytes, name, 1), depth === 32)).toBeLessThan(close);
    expect(inputFormatOf(await codec.thumbnail(bytes, name, 32), "x")?.id).toBe("jpeg");
    const half = await codec.decode(bytes, name, 2);
    expect([half.width, half.height]).toEqual([Math.ceil(W / 2), Math.ceil(H / 2)]);
  });
  test("grey, and the first of several pages, which is said", async () => {
    folder.tool("convert", "8.ppm", "-colorspace", "Gray", "grey.png");
    const d = await codec.decode(readFileSync(join(folder.dir(), "grey.png")), "grey.png", 1);
    const px = working(d, 30, 20);
    expect(Math.max(...px) - Math.min(...px)).toBeLessThan(1e-4);
    folder.tool("convert", "8.ppm", "16.ppm", "8.ppm", "pages.tif");
    expect(
      (await codec.inspect(readFileSync(join(folder.dir(), "pages.tif")), "pages.tif")).pages,
    ).toBe(3);
  });
  const packed = join(process.cwd(), "tests/files/exr");
  // written by OpenCV's OpenEXR: the known picture, four times as bright
  test.each(readdirSync(packed))("EXR packed as %s, by rows and in tiles", async (file) => {
    const bytes = readFileSync(join(packed, file));
    const half = file.startsWith("half");
    expect(await codec.inspect(bytes, file)).toMatchObject({
      width: W,
      height: H,
      depth: half ? 16 : 32,
    });
    folder.tool("exrmaketiled", join(packed, file), "tiled.exr");
    for (const b of [bytes, readFileSync(join(folder.dir(), "tiled.exr"))]) {
      const d = await codec.decode(b, file, 1);
      for (const [x, y] of [
        [1, 1],
        [50, 3],
        [20, 44],
        [60, 0],
      ] as const)
        working(d, x, y).forEach((v, c) =>
          expect(v).toBeCloseTo(
            apply(
              toWorking("srgb"),
              [0, 1, 2].map((k) => value(x, y, k) * 4),
            )[c]!,
            half ? 2 : 5,
          ),
        );
    }
  });
  test("a Radiance file is light itself", async () => {
    const light = picture((n) => new Float32Array(n), 1).map((v) => v * 8);
    const hdr = await written(input(light, { format: "hdr", linear: true }));
    working(await codec.decode(hdr, "a.hdr", 1), 40, 30).forEach((v, c) =>
      expect(
        v /
          apply(
            toWorking("srgb"),
            [0, 1, 2].map((k) => value(40, 30, k) * 8),
          )[c]!,
      ).toBeCloseTo(1, 1),
    );
  });
});
