import { readFileSync } from "node:fs";
import { join } from "node:path";
import { random } from "../core/math/random";
import { RhizomeError } from "../core/error";
import { writeDng } from "../tests/files/dng";
import { codec, input, ownFolder, picture, written } from "../tests/files/codecs";

const folder = ownFolder();

/** The known picture as another program writes it. */
function converted(name: string, ...how: string[]): Uint8Array {
  folder.tool("convert", "8.ppm", ...how, name);
  return readFileSync(join(folder.dir(), name));
}

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
      ["a.webp", converted("a.webp", "-define", "webp:lossless=true")],
      ["a.avif", converted("a.avif", "-quality", "95")],
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
