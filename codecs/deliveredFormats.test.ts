import { writeFileSync } from "node:fs";
import { join } from "node:path";
import Vips from "wasm-vips";
import { codec, H, input, ownFolder, picture, W, worst, written } from "../tests/files/codecs";

const folder = ownFolder();
const eight = picture((n) => new Uint8Array(n), 255);
const sixteen = picture((n) => new Uint16Array(n), 65535);

/** What exiftool finds in a file. */
function found(name: string, bytes: Uint8Array): Record<string, unknown> {
  writeFileSync(join(folder.dir(), name), bytes);
  const said = JSON.parse(folder.tool("exiftool", "-j", "-n", name)) as Record<string, unknown>[];
  return said[0]!;
}

test.each([
  ["pq", 16],
  ["hlg", 18],
] as const)(
  "an AVIF in %s says so, and holds the samples that it was given",
  async (displayCode, transfer) => {
    const more = { format: "avif", quality: 98, displayCode, space: "rec2020" } as const;
    const bytes = await written(input(sixteen, more));
    expect(found("pq.avif", bytes)).toMatchObject({
      ColorPrimaries: 9,
      TransferCharacteristics: transfer,
      MatrixCoefficients: 6,
      ImageWidth: W,
      ImageHeight: H,
    });
    const vips = await Vips({ dynamicLibraries: ["vips-heif.wasm"] });
    const image = vips.Image.newFromBuffer(bytes);
    const memory = image.writeToMemory();
    const read = new Uint16Array(memory.buffer, memory.byteOffset, W * H * 3);
    const off = sixteen.map((v, i) =>
      Math.abs(v - read[i]! * (image.format === "ushort" ? 1 : 257)),
    );
    expect(off.reduce((sum, v) => sum + v, 0) / off.length / 65535).toBeLessThan(0.01);
    image.delete();
  },
);

test("a PDF is a page of the picture's size in print, the same bytes each time", async () => {
  const more = { format: "pdf", ppi: 61, space: "adobe", quality: 100 } as const;
  const caption = {
    creator: "A. Quill",
    copyright: "",
    frames: ["a.jpg"],
    evs: [],
    kind: "bracket",
  };
  const bytes = await written(input(eight, { ...more, caption }));
  expect(found("o.pdf", bytes)).toMatchObject({ PageCount: 1, Author: "A. Quill" });
  const text = Buffer.from(bytes).toString("latin1");
  expect(/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]/.exec(text)?.slice(1).map(Number)).toEqual([
    (W / 61) * 72,
    expect.closeTo((H / 61) * 72, 3),
  ]);
  expect(text).toContain("/ICCBased");
  expect(await written(input(eight, { ...more, caption }))).toEqual(bytes);
  const jpeg = bytes.slice(text.indexOf("\xff\xd8\xff"), text.lastIndexOf("\xff\xd9") + 2);
  const { width, height } = await codec.decode(jpeg, "page.jpg", 1);
  expect([width, height]).toEqual([W, H]);
});

test("a PDF keeps its limit, in whole", async () => {
  const [width, height] = [600, 500];
  const noise = new Uint8Array(width * height * 3).map((_, i) => (i * 7919) & 255);
  const base = { ...input(noise, { format: "pdf", limit: 120000 }), width, height };
  const bytes = Buffer.concat(await codec.encode(base));
  expect(bytes.length).toBeLessThanOrEqual(120000);
});

test.each(["none", "lzw", "deflate"] as const)(
  "a TIFF in tiles, packed by %s, is the picture",
  async (compression) => {
    const bytes = await written(input(sixteen, { compression, tiles: true }));
    writeFileSync(join(folder.dir(), "t.tif"), bytes);
    expect(folder.tool("tiffinfo", "t.tif")).toMatch(/Tile Width: 256 Tile Length: 256/);
    expect(worst(await codec.decode(bytes, "t.tif", 1))).toBeLessThan(1e-4);
  },
);
