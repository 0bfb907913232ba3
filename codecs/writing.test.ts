/* eslint-disable max-lines -- one table of formats, each held against independent programs */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { apply } from "../core/math/matrix3";
import { toWorking } from "../core/colour/spaces";
import { random } from "../core/math/random";
import { writeDng } from "../tests/files/dng";
import type { EncodeInput } from "./codec";
import { readMatrixProfile, writeProfile } from "./icc";
import { readExif } from "./exif";
import { joined } from "./stream";
import {
  H,
  W,
  codec,
  input,
  ownFolder,
  picture,
  value,
  working,
  written,
} from "../tests/files/codecs";

const folder = ownFolder();

describe("writing what other programs read", () => {
  const eight = picture((n) => new Uint8Array(n), 255);
  const sixteen = picture((n) => new Uint16Array(n), 65535);
  const floats = picture((n) => new Float32Array(n), 1);
  const compare = (name: string, reference: string): number => {
    try {
      folder.tool("compare", "-metric", "AE", "-fuzz", "0.02%", reference, name, "null:");
      return 0;
    } catch (e) {
      return Number(/[\d.e+]+/.exec((e as { stderr: string }).stderr)?.[0]);
    }
  };
  test.each([
    ["o.png", eight, { format: "png" }, "8"],
    ["o16.png", sixteen, { format: "png" }, "16"],
    ["o.tif", eight, { compression: "lzw" }, "8"],
    ["o16.tif", sixteen, { compression: "deflate" }, "16"],
    ["n16.tif", sixteen, {}, "16"],
  ] as const)("%s: size, depth, pixels by ImageMagick", async (name, samples, more, depth) => {
    writeFileSync(join(folder.dir(), name), await written(input(samples, more)));
    expect(folder.tool("identify", "-format", "%w %h %z", `${name}[0]`)).toBe(`${W} ${H} ${depth}`);
    expect(compare(name, depth === "8" ? "8.ppm" : "16.ppm")).toBe(0);
  });
  test.each(["none", "lzw"] as const)(
    "a file of several pieces, packed by %s, with its metadata behind them",
    async (compression) => {
      const width = 1500;
      const height = 700;
      const random1 = random(3);
      const samples = new Uint16Array(width * height * 3).map(() => random1() * 65535);
      const parts = await codec.encode({
        ...input(samples, { compression, metadataFrom: raw() }),
        width,
        height,
      });
      const bytes = joined(parts);
      expect(parts.length).toBeGreaterThan(1);
      writeFileSync(join(folder.dir(), "large.tif"), bytes);
      expect(folder.tool("identify", "-format", "%w %h %z", "large.tif[0]")).toBe(
        `${width} ${height} 16`,
      );
      expect(folder.tool("exiftool", "-s3", "-n", "-FNumber", "large.tif").trim()).toBe("8");
      const back = (await codec.decode(bytes, "large.tif", 1)).samples;
      expect(back.every((v, i) => v === samples[i])).toBe(true);
    },
  );
  test.each([
    ["lzw", "LZW"],
    ["deflate", "AdobeDeflate"],
    ["none", "None"],
  ] as const)("TIFF floats packed by %s, by tiffinfo and exiftool", async (compression, said) => {
    writeFileSync(
      join(folder.dir(), "f.tif"),
      await written(input(floats, { compression, space: "prophoto" })),
    );
    const info = folder.tool("tiffinfo", "f.tif");
    expect(info).toMatch(
      new RegExp(
        `Image Width: ${W} Image Length: ${H}[\\s\\S]*Bits/Sample: 32[\\s\\S]*IEEE floating point[\\s\\S]*Compression Scheme: ${said}`,
      ),
    );
    expect(folder.tool("exiftool", "-s3", "-ProfileDescription", "f.tif")).toContain(
      "ProPhoto (ROMM)",
    );
  });
  test.each([
    [true, "16-bit"],
    [false, "32-bit"],
  ] as const)("EXR, half %s, by exrheader, and read back", async (half, bits) => {
    const bytes = await written(
      input(
        floats.map((v) => v * 4),
        { format: "exr", half, space: "p3", linear: true, compression: half ? "deflate" : "none" },
      ),
    );
    writeFileSync(join(folder.dir(), "o.exr"), bytes);
    const head = folder.tool("exrheader", "o.exr");
    expect(head).toContain(`R, ${bits} floating-point`);
    expect(head).toContain(`dataWindow (type box2i): (0 0) - (${W - 1} ${H - 1})`);
    expect(head).toMatch(/red +\(0\.68 0\.32\)/);
    // a program that reads every block of it
    folder.tool("exrmaketiled", "o.exr", "tiled.exr");
    const d = await codec.decode(bytes, "o.exr", 1);
    for (const [x, y] of [
      [1, 1],
      [50, 3],
      [20, 44],
    ] as const)
      working(d, x, y).forEach((v, c) =>
        expect(v).toBeCloseTo(
          apply(
            toWorking("p3"),
            [0, 1, 2].map((k) => value(x, y, k) * 4),
          )[c]!,
          half ? 2 : 4,
        ),
      );
    expect((await codec.inspect(bytes, "o.exr")).depth).toBe(half ? 16 : 32);
  });
  test.each(["jpg", "png", "tif"] as const)(
    "EXIF, XMP and rights in .%s, by exiftool; orientation and thumbnail stay behind",
    async (format) => {
      folder.tool("convert", "8.ppm", "ref.jpg");
      folder.tool(
        "exiftool",
        "-q",
        "-overwrite_original",
        "-Make=Quillmoor",
        "-Model=Stand-in",
        "-ExposureTime=1/30",
        "-FNumber=8",
        "-ISO=200",
        "-Orientation#=6",
        "-XMP-xmp:Rating=4",
        "-XMP-dc:Creator=Somebody",
        "ref.jpg",
      );
      const file = `m.${format}`;
      writeFileSync(
        join(folder.dir(), file),
        await written(
          input(eight, {
            format,
            space: "p3",
            metadataFrom: {
              bytes: readFileSync(join(folder.dir(), "ref.jpg")),
              name: "ref.jpg",
              exif: {},
            },
            caption: {
              creator: 'Mara <&> "Q"',
              copyright: "2026 Mara",
              kind: "bracket",
              frames: ["a<img>.jpg", "b.jpg"],
              evs: [-2, 0],
            },
          }),
        ),
      );
      const said = JSON.parse(
        folder.tool(
          "exiftool",
          "-j",
          "-n",
          "-ExposureTime",
          "-FNumber",
          "-ISO",
          "-Model",
          "-Orientation",
          "-ThumbnailImage",
          "-XMP-dc:all",
          "-XMP-xmp:Rating",
          "-XMP-rhizome:all",
          "-ProfileDescription",
          file,
        ),
      )[0];
      expect(said).toMatchObject({
        FNumber: 8,
        ISO: 200,
        Model: "Stand-in",
        Creator: 'Mara <&> "Q"',
        Rights: "2026 Mara",
        Rating: 4,
        Frames: ["a<img>.jpg", "b.jpg"],
        LowestEV: -2,
        HighestEV: 0,
        Kind: "bracket",
      });
      expect(said.ExposureTime).toBeCloseTo(1 / 30, 3);
      expect(said.Orientation ?? 1).toBe(1);
      expect(said.ThumbnailImage).toBeUndefined();
      expect(said.ProfileDescription).toContain("Display P3");
    },
  );
  test("the user's marks go over the frame's own, and viewers can read how a picture covers its sphere", async () => {
    folder.tool("convert", "8.ppm", "ref.jpg");
    folder.tool(
      "exiftool",
      "-q",
      "-overwrite_original",
      "-XMP-xmp:Rating=4",
      "-XMP-xmp:Label=old",
      "ref.jpg",
    );
    expect(readExif(readFileSync(join(folder.dir(), "ref.jpg")))).toMatchObject({
      rating: 4,
      label: "old",
    });
    const sphere = {
      width: 4000,
      height: 2000,
      left: 500.4,
      top: 300,
      croppedWidth: 3000,
      croppedHeight: 1400,
    };
    writeFileSync(
      join(folder.dir(), "s.jpg"),
      await written(
        input(eight, {
          format: "jpg",
          metadataFrom: {
            bytes: readFileSync(join(folder.dir(), "ref.jpg")),
            name: "ref.jpg",
            exif: {},
          },
          caption: {
            creator: "",
            copyright: "",
            kind: "panorama",
            frames: ["a.jpg"],
            evs: [],
            rating: 2,
            label: "check",
            sphere,
          },
        }),
      ),
    );
    expect(
      JSON.parse(folder.tool("exiftool", "-j", "-n", "-XMP-xmp:all", "-XMP-GPano:all", "s.jpg"))[0],
    ).toMatchObject({
      Rating: 2,
      Label: "check",
      ProjectionType: "equirectangular",
      FullPanoWidthPixels: 4000,
      FullPanoHeightPixels: 2000,
      CroppedAreaLeftPixels: 500,
      CroppedAreaTopPixels: 300,
      CroppedAreaImageWidthPixels: 3000,
      CroppedAreaImageHeightPixels: 1400,
    });
  });
  const shot = {
    exposureTime: 1 / 60,
    aperture: 8,
    iso: 100,
    focalLength: 35,
    takenAt: Date.UTC(2026, 8, 14, 9, 12, 4) / 1000 + 0.25,
    camera: "Quillmoor Stand-in 24",
    lens: "Stand-in 35 mm",
  };
  const raw = (): NonNullable<EncodeInput["metadataFrom"]> => ({
    bytes: writeDng({
      width: 32,
      height: 32,
      samples: new Uint16Array(32 * 32).fill(4000),
      bayer: true,
    }),
    name: "x.dng",
    exif: shot,
  });
  const caption = {
    creator: "Mara",
    copyright: "2026",
    kind: "bracket",
    frames: ["a.dng", "b.dng"],
    evs: [-2, 0],
  };
  test.each(["jpg", "png", "tif"] as const)(
    "what a camera raw says of its shot, in .%s",
    async (format) => {
      writeFileSync(
        join(folder.dir(), `r.${format}`),
        await written(input(eight, { format, metadataFrom: raw(), caption })),
      );
      const said = JSON.parse(
        folder.tool(
          "exiftool",
          "-j",
          "-n",
          "-ExposureTime",
          "-FNumber",
          "-ISO",
          "-Make",
          "-Model",
          "-LensModel",
          "-FocalLength",
          "-DateTimeOriginal",
          "-SubSecTimeOriginal",
          "-XMP-dc:Creator",
          `r.${format}`,
        ),
      )[0];
      expect(said).toMatchObject({
        FNumber: 8,
        ISO: 100,
        Make: "Quillmoor",
        Model: "Stand-in 24",
        LensModel: "Stand-in 35 mm",
        FocalLength: 35,
        DateTimeOriginal: "2026:09:14 09:12:04",
        SubSecTimeOriginal: 250,
        Creator: "Mara",
      });
      expect(said.ExposureTime).toBeCloseTo(1 / 60, 4);
    },
  );
  test.each(["jpg", "png", "tif"] as const)(
    "the size in print in .%s, whatever the frame said, by exiftool",
    async (format) => {
      writeFileSync(
        join(folder.dir(), "said.jpg"),
        await written(input(eight, { format: "jpg", ppi: 72 })),
      );
      folder.tool(
        "exiftool",
        "-q",
        "-overwrite_original",
        "-Make=Quillmoor",
        "-XResolution=72",
        "-YResolution=72",
        "said.jpg",
      );
      writeFileSync(
        join(folder.dir(), `p.${format}`),
        await written(
          input(eight, {
            format,
            ppi: 240,
            metadataFrom: {
              bytes: readFileSync(join(folder.dir(), "said.jpg")),
              name: "said.jpg",
              exif: {},
            },
          }),
        ),
      );
      const said = JSON.parse(
        folder.tool(
          "exiftool",
          "-j",
          "-n",
          "-a",
          "-G",
          "-XResolution",
          "-YResolution",
          "-ResolutionUnit",
          "-PixelsPerUnitX",
          `p.${format}`,
        ),
      )[0] as Record<string, number>;
      const sizes = Object.entries(said).filter(([k]) => /Resolution$|PixelsPerUnitX/.test(k));
      expect(sizes.length).toBeGreaterThan(0);
      // inches, or metres in PNG
      for (const [k, v] of sizes)
        expect([k, Math.round(v)]).toEqual([k, k.startsWith("PNG") ? 9449 : 240]);
    },
  );
  test("the shot and the merge in an EXR, by exrheader", async () => {
    writeFileSync(
      join(folder.dir(), "r.exr"),
      await written(
        input(floats, {
          format: "exr",
          linear: true,
          compression: "deflate",
          metadataFrom: raw(),
          caption,
        }),
      ),
    );
    const head = folder.tool("exrheader", "r.exr");
    for (const line of [
      /xDensity.*300/,
      /aperture.*8/,
      /isoSpeed.*100/,
      /expTime.*0\.0166/,
      /capDate.*"2026:09:14 09:12:04"/,
      /cameraModel.*"Stand-in 24"/,
      /owner.*"Mara, 2026"/,
      /comments.*"bracket of a.dng, b.dng"/,
      /rhizome:LowestEV>-2/,
    ])
      expect(head).toMatch(line);
    folder.tool("exrmaketiled", "r.exr", "tiled.exr");
  });
  test("a linear file carries a profile without a curve", () => {
    const p = readMatrixProfile(writeProfile("p3", true))!;
    expect(p.curves[0]!(0.25)).toBeCloseTo(0.25, 4);
    p.matrix.forEach((v, i) => expect(v).toBeCloseTo(toWorking("p3")[i]!, 3));
  });
});
