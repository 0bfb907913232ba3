import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import Vips from "wasm-vips";
import { codec, H, input, ownFolder, picture, W, worst, written } from "../tests/files/codecs";
import { hasGainMap } from "./gainMapMarks";
import { colourOfCodes } from "./heicColour";

// the known picture, written by Debian's heif-enc
const heic = (name: string): Uint8Array => readFileSync(`tests/files/heic/${name}`);
const folder = ownFolder();

describe("HEIC", () => {
  test.each([
    ["eight.heic", 8, 0.035],
    ["ten.heic", 16, 0.02],
  ])("%s is read in its depth, and shows the picture", async (name, depth, off) => {
    const bytes = heic(name);
    expect(await codec.inspect(bytes, name)).toMatchObject({
      format: "heic",
      width: W,
      height: H,
      depth,
    });
    expect(worst(await codec.decode(bytes, name, 1))).toBeLessThan(off);
    const half = await codec.decode(bytes, name, 2);
    expect([half.width, half.height]).toEqual([Math.ceil(W / 2), Math.ceil(H / 2)]);
    const small = await codec.thumbnail(bytes, name, 20);
    expect([small[0], small[1]]).toEqual([0xff, 0xd8]);
  });

  test("what the camera wrote is read, and goes on into a result", async () => {
    const bytes = heic("phone.heic");
    const { exif } = await codec.inspect(bytes, "phone.heic");
    expect(exif).toMatchObject({ exposureTime: 1 / 125, aperture: 2.2, iso: 64 });
    expect(exif.orientation).toBeUndefined();
    const eight = picture((n) => new Uint8Array(n), 255);
    const metadataFrom = { bytes, name: "phone.heic", exif };
    writeFileSync(
      join(folder.dir(), "o.jpg"),
      await written(input(eight, { format: "jpg", metadataFrom })),
    );
    expect(folder.tool("exiftool", "-s3", "-n", "-ISO", "o.jpg").trim()).toBe("64");
  });

  test("one that is cut, or changed, ends in a picture or in an error with its name", async () => {
    const good = heic("phone.heic");
    for (let cut = 1; cut < good.length; cut += 97) {
      const answer = await codec.decode(good.slice(0, cut), "cut.heic", 1).catch((e: Error) => e);
      if (answer instanceof Error) expect(answer.message).toContain("cut.heic");
    }
  });

  test("codes of colour are read as H.273 has them", () => {
    const names = [
      [1, 13],
      [12, 13],
      [9, 16],
      [9, 18],
      [2, 2],
    ].map(([primaries, transfer]) => {
      const { name, curves } = colourOfCodes({ primaries: primaries!, transfer: transfer! });
      expect(curves[0]!(0)).toBeCloseTo(0, 6);
      expect(curves[0]!(1)).toBeCloseTo(1, 2);
      return name;
    });
    expect(new Set(names).size).toBe(4);
    // ST 2084: 100 cd/m² has the code 0.508
    expect(colourOfCodes({ primaries: 9, transfer: 16 }).curves[0]!(0.508)).toBeCloseTo(0.01, 3);
  });
});

describe("JPEG XL", () => {
  const sixteen = picture((n) => new Uint16Array(n), 65535);
  test.each([
    ["8 bit", picture((n) => new Uint8Array(n), 255), 90, 8, 0.08],
    ["16 bit", sixteen, 95, 16, 0.05],
    ["16 bit without loss", sixteen, 100, 16, 1e-4],
  ] as const)("%s comes back", async (_, samples, quality, depth, off) => {
    const bytes = await written(input(samples, { format: "jxl", quality }));
    const info = await codec.inspect(bytes, "o.jxl");
    expect(info).toMatchObject({ format: "jxl", width: W, height: H, depth });
    expect(worst(await codec.decode(bytes, "o.jxl", 1))).toBeLessThan(off);
  });

  test("its library finds profile and metadata, and so does the next merge", async () => {
    const bytes = heic("phone.heic");
    const { exif } = await codec.inspect(bytes, "phone.heic");
    const file = await written(
      input(sixteen, {
        format: "jxl",
        space: "p3",
        metadataFrom: { bytes, name: "phone.heic", exif },
        caption: { creator: "A. Quill", copyright: "", frames: [], evs: [], kind: "bracket" },
      }),
    );
    const vips = await Vips({ dynamicLibraries: ["vips-jxl.wasm"] });
    const image = vips.Image.newFromBuffer(file);
    expect([image.width, image.height]).toEqual([W, H]);
    expect(new TextDecoder().decode(image.getBlob("xmp-data"))).toContain("A. Quill");
    image.delete();
    const info = await codec.inspect(file, "o.jxl");
    expect(info.profile).toMatch(/P3/);
    expect(info.exif).toMatchObject({ exposureTime: 1 / 125, iso: 64 });
  });

  test("one that is cut ends in a picture or in an error with its name", async () => {
    const good = await written(input(sixteen, { format: "jxl" }));
    for (let cut = 1; cut < good.length; cut += Math.ceil(good.length / 25)) {
      const answer = await codec.decode(good.slice(0, cut), "cut.jxl", 1).catch((e: Error) => e);
      if (answer instanceof Error) expect(answer.message).toContain("cut.jxl");
    }
  });
});

test("a gain map that goes with a frame is seen, and leaves the frame as it is", async () => {
  const eight = picture((n) => new Uint8Array(n), 255);
  const values = new Uint8Array(W * H).fill(200);
  const plain = await written(input(eight, { format: "jpg" }));
  const bright = await written(input(eight, { format: "jpg", gain: { values, headroom: 2 } }));
  expect(hasGainMap(plain)).toBe(false);
  expect(hasGainMap(bright)).toBe(true);
  expect(await codec.inspect(bright, "bright.jpg")).toMatchObject({ depth: 8, gainMap: true });
  const [one, other] = await Promise.all(
    [plain, bright].map((bytes) => codec.decode(bytes, "a.jpg", 1)),
  );
  expect(other!.samples).toEqual(one!.samples);
});
