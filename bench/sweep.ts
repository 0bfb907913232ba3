// Writes a simulated sweep as JPEGs with EXIF and its truth: node build/node/benchSweep.js DIR
// MEGAPIXELS COUNT SEED [known|free|sphere]
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulatedRoom } from "../simulate/room";
import { simulateSweep } from "../simulate/sweep";

const [dir, megapixels, count, seed, mode = "known"] = [
  process.argv[2]!,
  Number(process.argv[3]),
  Number(process.argv[4]),
  Number(process.argv[5]),
  process.argv[6],
];
// portrait frames
const width = Math.round(Math.sqrt((megapixels * 1e6) / 1.5) / 8) * 8;
const height = Math.round((width * 1.5) / 8) * 8;
const focalPx = mode === "sphere" ? 0.62 * height : 0.95 * height;
const step = ((2 * Math.atan(width / 2 / focalPx) * 180) / Math.PI) * 0.7;
const directions: [number, number][] =
  mode === "sphere"
    ? [
        ...[0, 40, -40].flatMap((pitch) =>
          Array.from({ length: 8 }, (_, i): [number, number] => [i * 45, pitch]),
        ),
        [0, 88],
        [0, -88],
      ]
    : Array.from({ length: count }, (_, i): [number, number] => [(i - (count - 1) / 2) * step, 0]);
await mkdir(dir, { recursive: true });
const vips = await Vips({ dynamicLibraries: [] });
const world = simulatedRoom(
  Math.min(9000, Math.round(focalPx * 2 * Math.PI)),
  Math.min(4500, Math.round(focalPx * Math.PI)),
  seed,
);
const frames: object[] = [];
for (const [i, direction] of directions.entries()) {
  const [f] = simulateSweep(world, {
    directions: [direction],
    width: mode === "sphere" ? height : width,
    height: mode === "sphere" ? width : height,
    focalPx,
    distortion: [-0.03, 0.008, 0],
    roll: 1,
    vignetting: 0.25,
    seed: seed * 100 + i,
  });
  const im = vips.Image.newFromMemory(
    f!.samples,
    f!.width,
    f!.height,
    3,
    vips.BandFormat.uchar,
  ).copy({ interpretation: "srgb" });
  im.setString("exif-ifd2-ExposureTime", "1/125");
  im.setString("exif-ifd2-FNumber", "8/1");
  if (mode !== "free")
    im.setString(
      "exif-ifd2-FocalLengthIn35mmFilm",
      String(Math.round((focalPx / Math.max(f!.width, f!.height)) * 36)),
    );
  const name = `p${String(i).padStart(2, "0")}.jpg`;
  await writeFile(join(dir, name), im.jpegsaveBuffer({ Q: 92 }));
  im.delete();
  frames.push({ name, ...f!.camera });
}
await writeFile(
  join(dir, "truth.json"),
  JSON.stringify({ seed, world: { width: world.width, height: world.height }, frames }),
);
process.exit(0);
