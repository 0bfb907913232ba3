import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import Vips from "wasm-vips";
import { apply } from "../core/math/matrix3";
import { decode as decodeCurve, SPACES, toWorking } from "../core/colour/spaces";
import { random } from "../core/math/random";
import { RhizomeError } from "../core/error";
import { writeDng } from "../tests/files/dng";
import { anyCodec } from "./anyCodec";
import type { Decoded, EncodeInput } from "./codec";
import { inputFormatOf } from "./inputFormats";
import { readMatrixProfile, writeProfile } from "./icc";
import type { LibRaw } from "./rawCodec";
import { readExif } from "./exif";
import { joined } from "./stream";
import { vipsCodec } from "./vipsCodec";

const libraw = join(process.cwd(), "node_modules/libraw-wasm/dist/libraw.js");
const codec = anyCodec({
  vips: async ({ avif }) =>
    vipsCodec(
      await Vips({
        dynamicLibraries: avif ? ["vips-heif.wasm"] : [],
        preRun: (m) => {
          (m as unknown as { ENV: Record<string, string> }).ENV["VIPS_WARNING"] = "1";
        },
      }),
    ),
  libraw: async () =>
    (
      (await import(pathToFileURL(libraw).href)) as { default: (o: object) => Promise<LibRaw> }
    ).default({
      wasmBinary: readFileSync(libraw.replace(".js", ".wasm")),
      print: () => undefined,
      printErr: () => undefined,
    }),
});
let dir: string;
beforeAll(() => {
  dir = mkdtempSync(join(tmpdir(), "rhizome-codecs-"));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));
const tool = (name: string, ...args: string[]): string =>
  execFileSync(name, args, { encoding: "utf8", cwd: dir, stdio: ["ignore", "pipe", "pipe"] });

const W = 61;
const H = 45;
/** A picture of known values: ramps and a mark in the top left corner, 0..1. */
const value = (x: number, y: number, c: number): number =>
  x < 6 && y < 4 ? [0.9, 0.1, 0.2][c]! : [x / W, y / H, (x + y) / (W + H)][c]! * 0.9 + 0.02;
const picture = <T extends Uint8Array | Uint16Array | Float32Array>(
  make: (n: number) => T,
  top: number,
): T => {
  const out = make(W * H * 3);
  for (let i = 0; i < out.length; i++) {
    const v = value(Math.floor(i / 3) % W, Math.floor(i / 3 / W), i % 3) * top;
    out[i] = top === 1 ? v : Math.round(v);
  }
  return out;
};
const input = (samples: EncodeInput["samples"], more: Partial<EncodeInput>): EncodeInput => ({
  samples,
  width: W,
  height: H,
  format: "tif",
  space: "srgb",
  linear: false,
  quality: 95,
  chroma: "full",
  compression: "none",
  half: false,
  ppi: 300,
  ...more,
});
const written = async (i: EncodeInput): Promise<Uint8Array> => joined(await codec.encode(i));
/** Linear Rec. 2020 of a decoded pixel. */
const working = (d: Decoded, x: number, y: number): number[] => {
  const size = d.lut.length / 3;
  const o = (y * d.width + x) * 3;
  return apply(
    d.matrix,
    [0, 1, 2].map((c) => (size ? d.lut[c * size + d.samples[o + c]!]! : d.samples[o + c]!)),
  );
};
/**
 * The largest error against the known picture, as encoded sRGB values were read, in linear light.
 */
function worst(d: Decoded, linear = false): number {
  let m = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const truth = apply(
        toWorking("srgb"),
        [0, 1, 2].map((c) =>
          linear ? value(x, y, c) : decodeCurve(SPACES.srgb.curve, value(x, y, c)),
        ),
      );
      working(d, x, y).forEach((v, c) => {
        m = Math.max(m, Math.abs(v - truth[c]!));
      });
    }
  return m;
}
const pnm = (samples: Uint8Array | Uint16Array): Buffer => {
  const wide = samples instanceof Uint16Array;
  const body = wide ? Buffer.from(samples.buffer.slice(0)).swap16() : Buffer.from(samples);
  return Buffer.concat([Buffer.from(`P6\n${W} ${H}\n${wide ? 65535 : 255}\n`), body]);
};

describe("reading what other programs wrote", () => {
  beforeAll(() => {
    writeFileSync(join(dir, "8.ppm"), pnm(picture((n) => new Uint8Array(n), 255)));
    writeFileSync(join(dir, "16.ppm"), pnm(picture((n) => new Uint16Array(n), 65535)));
  });
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
    tool("convert", ...args, name);
    const bytes = readFileSync(join(dir, name));
    const info = await codec.inspect(bytes, name);
    expect([info.width, info.height, info.depth]).toEqual([W, H, depth]);
    // floats without a profile are taken as light itself
    expect(worst(await codec.decode(bytes, name, 1), depth === 32)).toBeLessThan(close);
    expect(inputFormatOf(await codec.thumbnail(bytes, name, 32), "x")?.id).toBe("jpeg");
    const half = await codec.decode(bytes, name, 2);
    expect([half.width, half.height]).toEqual([Math.ceil(W / 2), Math.ceil(H / 2)]);
  });
  test("grey, and the first of several pages, which is said", async () => {
    tool("convert", "8.ppm", "-colorspace", "Gray", "grey.png");
    const d = await codec.decode(readFileSync(join(dir, "grey.png")), "grey.png", 1);
    const px = working(d, 30, 20);
    expect(Math.max(...px) - Math.min(...px)).toBeLessThan(1e-4);
    tool("convert", "8.ppm", "16.ppm", "8.ppm", "pages.tif");
    expect((await codec.inspect(readFileSync(join(dir, "pages.tif")), "pages.tif")).pages).toBe(3);
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
    tool("exrmaketiled", join(packed, file), "tiled.exr");
    for (const b of [bytes, readFileSync(join(dir, "tiled.exr"))]) {
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

describe("writing what other programs read", () => {
  const eight = picture((n) => new Uint8Array(n), 255);
  const sixteen = picture((n) => new Uint16Array(n), 65535);
  const floats = picture((n) => new Float32Array(n), 1);
  const compare = (name: string, reference: string): number => {
    try {
      tool("compare", "-metric", "AE", "-fuzz", "0.02%", reference, name, "null:");
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
    writeFileSync(join(dir, name), await written(input(samples, more)));
    expect(tool("identify", "-format", "%w %h %z", `${name}[0]`)).toBe(`${W} ${H} ${depth}`);
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
      writeFileSync(join(dir, "large.tif"), bytes);
      expect(tool("identify", "-format", "%w %h %z", "large.tif[0]")).toBe(`${width} ${height} 16`);
      expect(tool("exiftool", "-s3", "-n", "-FNumber", "large.tif").trim()).toBe("8");
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
      join(dir, "f.tif"),
      await written(input(floats, { compression, space: "prophoto" })),
    );
    const info = tool("tiffinfo", "f.tif");
    expect(info).toMatch(
      new RegExp(
        `Image Width: ${W} Image Length: ${H}[\\s\\S]*Bits/Sample: 32[\\s\\S]*IEEE floating point[\\s\\S]*Compression Scheme: ${said}`,
      ),
    );
    expect(tool("exiftool", "-s3", "-ProfileDescription", "f.tif")).toContain("ProPhoto (ROMM)");
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
    writeFileSync(join(dir, "o.exr"), bytes);
    const head = tool("exrheader", "o.exr");
    expect(head).toContain(`R, ${bits} floating-point`);
    expect(head).toContain(`dataWindow (type box2i): (0 0) - (${W - 1} ${H - 1})`);
    expect(head).toMatch(/red +\(0\.68 0\.32\)/);
    // a program that reads every block of it
    tool("exrmaketiled", "o.exr", "tiled.exr");
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
      tool("convert", "8.ppm", "ref.jpg");
      tool(
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
        join(dir, file),
        await written(
          input(eight, {
            format,
            space: "p3",
            metadataFrom: { bytes: readFileSync(join(dir, "ref.jpg")), name: "ref.jpg", exif: {} },
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
        tool(
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
    tool("convert", "8.ppm", "ref.jpg");
    tool(
      "exiftool",
      "-q",
      "-overwrite_original",
      "-XMP-xmp:Rating=4",
      "-XMP-xmp:Label=old",
      "ref.jpg",
    );
    expect(readExif(readFileSync(join(dir, "ref.jpg")))).toMatchObject({ rating: 4, label: "old" });
    const sphere = {
      width: 4000,
      height: 2000,
      left: 500.4,
      top: 300,
      croppedWidth: 3000,
      croppedHeight: 1400,
    };
    writeFileSync(
      join(dir, "s.jpg"),
      await written(
        input(eight, {
          format: "jpg",
          metadataFrom: { bytes: readFileSync(join(dir, "ref.jpg")), name: "ref.jpg", exif: {} },
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
      JSON.parse(tool("exiftool", "-j", "-n", "-XMP-xmp:all", "-XMP-GPano:all", "s.jpg"))[0],
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
        join(dir, `r.${format}`),
        await written(input(eight, { format, metadataFrom: raw(), caption })),
      );
      const said = JSON.parse(
        tool(
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
      writeFileSync(join(dir, "said.jpg"), await written(input(eight, { format: "jpg", ppi: 72 })));
      tool(
        "exiftool",
        "-q",
        "-overwrite_original",
        "-Make=Quillmoor",
        "-XResolution=72",
        "-YResolution=72",
        "said.jpg",
      );
      writeFileSync(
        join(dir, `p.${format}`),
        await written(
          input(eight, {
            format,
            ppi: 240,
            metadataFrom: {
              bytes: readFileSync(join(dir, "said.jpg")),
              name: "said.jpg",
              exif: {},
            },
          }),
        ),
      );
      const said = JSON.parse(
        tool(
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
      join(dir, "r.exr"),
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
    const head = tool("exrheader", "r.exr");
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
    tool("exrmaketiled", "r.exr", "tiled.exr");
  });
  test("a linear file carries a profile without a curve", () => {
    const p = readMatrixProfile(writeProfile("p3", true))!;
    expect(p.curves[0]!(0.25)).toBeCloseTo(0.25, 4);
    p.matrix.forEach((v, i) => expect(v).toBeCloseTo(toWorking("p3")[i]!, 3));
  });
});

describe("camera raws", () => {
  const raw = (bayer: boolean, more: object = {}): Uint8Array => {
    const w = 64;
    const h = 48;
    const samples = new Uint16Array(w * h * (bayer ? 1 : 3));
    const grey = [10000, 20000, 15000];
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const light = x < 32 ? 1 : 2.5;
        const at = (c: number): number => Math.min(60000, grey[c]! * light) + 600;
        if (bayer) samples[y * w + x] = at((y & 1) + (x & 1));
        else for (let c = 0; c < 3; c++) samples[(y * w + x) * 3 + c] = at(c);
      }
    return writeDng({
      width: w,
      height: h,
      samples,
      bayer,
      black: 600,
      white: 60600,
      neutral: [0.5, 1, 0.75],
      ...more,
    });
  };
  test.each([[true], [false]])(
    "a DNG, mosaic %s: linear, balanced as shot by the matrix, with room above where channels have it",
    async (bayer) => {
      const d = await codec.decode(raw(bayer), "x.dng", 1);
      const info = await codec.inspect(raw(bayer), "x.dng");
      expect(info).toMatchObject({
        format: "raw",
        width: 64,
        height: 48,
        depth: 16,
        exif: { aperture: 8, iso: 100 },
      });
      expect(info.exif.exposureTime).toBeCloseTo(1 / 60, 4);
      const dark = working(d, 16, 24);
      const bright = working(d, 50, 24);
      dark.forEach((v) => expect(v).toBeCloseTo(20000 / 60000, 2));
      bright.forEach((v) => expect(v).toBeCloseTo((20000 / 60000) * 2.5, 1));
      const half = await codec.decode(raw(bayer), "x.dng", 4);
      expect([half.width, half.height]).toEqual([16, 12]);
      expect(inputFormatOf(await codec.thumbnail(raw(bayer), "x.dng", 40), "x")?.id).toBe("jpeg");
    },
  );
  test("what the file says of its lens comes with it", async () => {
    const gain = new DataView(new ArrayBuffer(76));
    // one opcode, a gain of 1 + 0.25 r^2
    [
      [0, 1],
      [4, 3],
      [8, 0x01030000],
      [16, 56],
    ].forEach(([at, v]) => gain.setUint32(at!, v!));
    gain.setFloat64(20, 0.25);
    expect(
      (await codec.inspect(raw(true, { opcodes: [...new Uint8Array(gain.buffer)] }), "x.dng")).lens!
        .vignetting,
    ).toBeCloseTo(0.21, 1);
    expect((await codec.inspect(raw(true), "x.dng")).lens).toBeUndefined();
  });
  test("is turned upright", async () => {
    const bytes = raw(false, { orientation: 6 });
    const d = await codec.decode(bytes, "x.dng", 1);
    expect([d.width, d.height]).toEqual([48, 64]);
    expect(await codec.inspect(bytes, "x.dng")).toMatchObject({ width: 48, height: 64 });
    expect(working(d, 24, 50)[1]! / working(d, 24, 10)[1]!).toBeCloseTo(2.5, 1);
  });
});

/** Runs one more deep for `RHIZOME_FUZZ=2000 npm run test:unit -- codecs`. */
const ROUNDS = Number(process.env["RHIZOME_FUZZ"] ?? 40);
describe("damaged files", () => {
  const made = async (): Promise<[string, Uint8Array][]> => {
    const eight = picture((n) => new Uint8Array(n), 255);
    const floats = picture((n) => new Float32Array(n), 1);
    const dng = writeDng({
      width: 32,
      height: 32,
      samples: new Uint16Array(32 * 32).fill(4000),
      bayer: true,
    });
    return [
      ["a.jpg", await written(input(eight, { format: "jpg" }))],
      ["a.png", await written(input(eight, { format: "png" }))],
      ["a.tif", await written(input(eight, { compression: "lzw" }))],
      [
        "a.exr",
        await written(input(floats, { format: "exr", linear: true, compression: "deflate" })),
      ],
      ["a.hdr", await written(input(floats, { format: "hdr", linear: true }))],
      ["a.dng", dng],
      ["a.webp", readFileSync(join(dir, "a.webp"))],
      ["a.avif", readFileSync(join(dir, "a.avif"))],
      ["piz.exr", readFileSync("tests/files/exr/half-piz.exr")],
      ["rle.exr", readFileSync("tests/files/exr/float-rle.exr")],
    ];
  };
  test("end in a picture or in an error with the file's name, whatever was changed or cut", async () => {
    const rnd = random(77);
    const said = new Set<string>();
    for (const [name, good] of await made())
      for (let i = 0; i < ROUNDS; i++) {
        let bad = good.slice();
        if (i % 3 === 0) bad = bad.slice(0, Math.floor(rnd() * bad.length));
        else
          for (let k = 0; k < 1 + (i % 7); k++)
            bad[Math.floor(rnd() * (i % 2 ? Math.min(bad.length, 400) : bad.length))] = Math.floor(
              rnd() * 256,
            );
        try {
          const d = await codec.decode(bad, name, i % 2 ? 1 : 2);
          if (d.samples.length !== d.width * d.height * 3)
            throw new Error(`${name}: ${d.samples.length} samples`);
        } catch (e) {
          expect([
            name,
            i,
            e instanceof RhizomeError && e.message.includes(name) ? "named" : e,
          ]).toEqual([name, i, "named"]);
          said.add((e as RhizomeError).code);
        }
      }
    expect(said).toContain("damaged");
  }, 300000);
  test("of a size that nobody takes are refused by their header", async () => {
    const bomb = (
      await written(
        input(
          picture((n) => new Uint8Array(n), 255),
          { format: "png" },
        ),
      )
    ).slice();
    new DataView(bomb.buffer, bomb.byteOffset).setUint32(16, 60000);
    new DataView(bomb.buffer, bomb.byteOffset).setUint32(20, 60000);
    await expect(codec.inspect(bomb, "bomb.png")).rejects.toMatchObject({
      code: expect.stringMatching(/too-large|damaged/),
    });
    const exr = (
      await written(
        input(
          picture((n) => new Float32Array(n), 1),
          { format: "exr", linear: true },
        ),
      )
    ).slice();
    const at = Buffer.from(exr).indexOf("dataWindow") + 11 + 6 + 4;
    new DataView(exr.buffer, exr.byteOffset).setInt32(at + 8, 40000, true);
    new DataView(exr.buffer, exr.byteOffset).setInt32(at + 12, 40000, true);
    await expect(codec.decode(exr, "bomb.exr", 1)).rejects.toMatchObject({ code: "too-large" });
  });
});
