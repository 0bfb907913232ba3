// Makes the benchmark's frames with the simulated camera: node build/node/benchFrames.js DIR
// MEGAPIXELS COUNT
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulateBracket } from "../simulate/bracket";
import { simulatedRoom } from "../simulate/room";

const [dir, megapixels, count] = [
  process.argv[2]!,
  Number(process.argv[3]),
  Number(process.argv[4]),
];
const width = Math.round(Math.sqrt(megapixels * 1.5e6) / 8) * 8;
const height = Math.round(width / 12) * 8;
await mkdir(dir, { recursive: true });
const vips = await Vips({ dynamicLibraries: [] });
vips.Cache.max(0);
const scene = simulatedRoom(width + 100, height + 100, 11);
// up and down again over 8 EV, however many frames
const evs = Array.from({ length: count }, (_, i) => -4 + (8 * i) / Math.max(1, count - 1));
for (let i = 0; i < count; i++) {
  const [frame] = simulateBracket(scene, {
    width,
    height,
    evs: [evs[i]!],
    baseEv: 0,
    hand: i === count >> 1 ? 0 : 0.5,
    seed: 100 + i,
    reference: -1,
  }).frames;
  const im = vips.Image.newFromMemory(
    frame!.samples as Uint8Array,
    width,
    height,
    3,
    vips.BandFormat.uchar,
  ).copy({ interpretation: "srgb" });
  im.setString("exif-ifd2-ExposureTime", `${Math.round(1e4 * 2 ** evs[i]!)}/1000000`);
  im.setString("exif-ifd2-FNumber", "8/1");
  im.setString("exif-ifd2-DateTimeOriginal", `2026:09:14 10:00:${String(i).padStart(2, "0")}`);
  await writeFile(join(dir, `b${String(i).padStart(2, "0")}.jpg`), im.jpegsaveBuffer({ Q: 92 }));
  im.delete();
}
process.exit(0);
