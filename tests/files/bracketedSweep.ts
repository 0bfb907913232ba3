import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep } from "../../simulate/sweep";

/**
 * Writes a row of brackets as a camera takes it: at each of `count` directions three exposures 2 EV
 * apart.
 *
 * @returns the files
 */
export async function writeBracketedSweep(dir: string, count: number): Promise<string[]> {
  const vips = await Vips({ dynamicLibraries: [] });
  const world = { ...simulatedRoom(2400, 1200, 8), piece: { across: 160, down: 80 } };
  const files: string[] = [];
  await mkdir(dir, { recursive: true });
  for (let k = 0; k < count; k++)
    for (const [e, ev] of [-2, 0, 2].entries()) {
      const [frame] = simulateSweep(world, {
        directions: [[(k - (count - 1) / 2) * 20, 0]],
        width: 720,
        height: 1080,
        focalPx: 1000,
        ev,
        seed: 100 + k * 3 + e,
      });
      const im = vips.Image.newFromMemory(frame!.samples, 720, 1080, 3, vips.BandFormat.uchar).copy(
        { interpretation: "srgb" },
      );
      const t = k * 6 + e * 0.4;
      const name = `row_${String(k * 3 + e).padStart(3, "0")}.jpg`;
      const fields = {
        "exif-ifd0-Model": "Stand-in 24",
        "exif-ifd2-ExposureTime": `${Math.round(2 ** ev * 10000)}/1000000`,
        "exif-ifd2-FNumber": "80/10",
        "exif-ifd2-ISOSpeedRatings": "100",
        "exif-ifd2-FocalLength": "33/1",
        "exif-ifd2-FocalLengthIn35mmFilm": "33",
        "exif-ifd2-DateTimeOriginal": `2026:09:14 18:30:${String(Math.floor(t)).padStart(2, "0")}`,
        "exif-ifd2-SubSecTimeOriginal": String(Math.round((t % 1) * 100)).padStart(2, "0"),
      };
      for (const [key, value] of Object.entries(fields)) im.setString(key, value);
      await writeFile(join(dir, name), im.jpegsaveBuffer({ Q: 94 }));
      im.delete();
      files.push(join(dir, name));
    }
  vips.shutdown();
  return files;
}
