import { writeFileSync } from "node:fs";
import { join } from "node:path";
import {
  codec,
  H,
  input,
  ownFolder,
  picture,
  W,
  working,
  written,
  worst,
} from "../tests/files/codecs";

const folder = ownFolder();
const eight = picture((n) => new Uint8Array(n), 255);
const sixteen = picture((n) => new Uint16Array(n), 65535);
const at = (name: string): string => join(folder.dir(), name);
const exif = (name: string, ...tags: string[]): Record<string, unknown> =>
  (JSON.parse(folder.tool("exiftool", "-j", "-n", ...tags, name)) as Record<string, unknown>[])[0]!;

test.each([
  ["o.webp", eight, { format: "webp", quality: 95 }, 0.16],
  ["o8.avif", eight, { format: "avif", quality: 95 }, 0.06],
  ["o10.avif", sixteen, { format: "avif", quality: 95 }, 0.03],
] as const)(
  "%s is read by exiftool, has its profile, and shows the picture",
  async (name, samples, more, off) => {
    const bytes = await written(input(samples, { ...more, space: "p3" }));
    writeFileSync(at(name), bytes);
    const said = exif(
      name,
      "-ImageWidth",
      "-ImageHeight",
      "-ProfileDescription",
      "-ImagePixelDepth",
    );
    expect([said["ImageWidth"], said["ImageHeight"]]).toEqual([W, H]);
    expect(said["ProfileDescription"]).toMatch(/P3/);
    if (name === "o10.avif") expect(String(said["ImagePixelDepth"])).toMatch(/^10/);
    const back = await codec.decode(bytes, name, 1);
    const middle = working(back, 30, 20);
    for (const v of middle) expect(Number.isFinite(v)).toBe(true);
    const plain = await codec.decode(await written(input(samples, more)), name, 1);
    expect(worst(plain)).toBeLessThan(off);
  },
);

describe("metadata that is kept", () => {
  /** A frame that says where it was taken, and whose it is. */
  const located = async (): Promise<NonNullable<Parameters<typeof input>[1]["metadataFrom"]>> => {
    writeFileSync(at("located.jpg"), await written(input(eight, { format: "jpg" })));
    folder.tool(
      "exiftool",
      "-q",
      "-overwrite_original",
      "-GPSLatitude=51.5",
      "-GPSLatitudeRef=N",
      "-GPSLongitude=3.25",
      "-GPSLongitudeRef=W",
      "-XMP-exif:GPSLatitude=51.5",
      "-Make=Quillmoor",
      "-Artist=Mara",
      "-FNumber=8",
      "located.jpg",
    );
    const { readFileSync } = await import("node:fs");
    return { bytes: readFileSync(at("located.jpg")), name: "located.jpg", exif: { aperture: 8 } };
  };
  const saidBy = async (
    format: "jpg" | "tif" | "webp" | "avif",
    keep: "all" | "noPlace" | "copyright",
  ): Promise<Record<string, unknown>> => {
    const name = `${keep}.${format}`;
    const metadataFrom = await located();
    const caption = {
      creator: "",
      copyright: "",
      frames: ["located.jpg"],
      evs: [0],
      kind: "bracket",
    };
    writeFileSync(at(name), await written(input(eight, { format, keep, metadataFrom, caption })));
    return exif(name, "-GPSLatitude", "-Make", "-Artist", "-FNumber");
  };

  test("all of it is in a JPEG", async () => {
    const said = await saidBy("jpg", "all");
    expect(said["GPSLatitude"]).toBeCloseTo(51.5, 3);
    expect(said["Make"]).toBe("Quillmoor");
  });

  test.each(["jpg", "tif", "webp", "avif"] as const)(
    "without the place a %s says the rest",
    async (format) => {
      const said = await saidBy(format, "noPlace");
      expect(said["GPSLatitude"]).toBeUndefined();
      expect(said["Make"]).toBe("Quillmoor");
      expect(said["FNumber"]).toBe(8);
    },
  );

  test.each(["jpg", "tif", "webp", "avif"] as const)(
    "a %s with copyright alone says whose it is, and nothing else",
    async (format) => {
      const said = await saidBy(format, "copyright");
      expect(said["GPSLatitude"]).toBeUndefined();
      expect(said["Make"]).toBeUndefined();
      expect(said["FNumber"]).toBeUndefined();
      if (format !== "tif") expect(said["Artist"]).toBe("Mara");
    },
  );
});
