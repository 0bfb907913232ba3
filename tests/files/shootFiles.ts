import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { mixedShoot, type MixedShoot } from "../../simulate/mixedShoot";

/**
 * Writes a simulated mixed shoot as JPEGs with EXIF.
 *
 * @returns the shoot, and the files in its order
 */
export async function writeMixedShoot(
  dir: string,
  count: number,
  seed: number,
): Promise<{ shoot: MixedShoot; files: string[] }> {
  const shoot = mixedShoot(count, seed);
  const vips = await Vips({ dynamicLibraries: [] });
  const files: string[] = [];
  await mkdir(dir, { recursive: true });
  for (const { info, samples } of shoot.frames) {
    const { exif } = info;
    const t = exif.takenAt!;
    const two = (v: number): string => String(Math.floor(v)).padStart(2, "0");
    const im = vips.Image.newFromMemory(
      samples,
      info.width / 30,
      info.height / 30,
      3,
      vips.BandFormat.uchar,
    ).copy({ interpretation: "srgb" });
    const fields = {
      "exif-ifd0-Model": exif.camera!,
      "exif-ifd2-ExposureTime": `${Math.round(exif.exposureTime! * 1e6)}/1000000`,
      "exif-ifd2-FNumber": `${exif.aperture! * 10}/10`,
      "exif-ifd2-ISOSpeedRatings": String(exif.iso),
      "exif-ifd2-FocalLength": `${exif.focalLength}/1`,
      "exif-ifd2-DateTimeOriginal": `2026:09:14 ${two(t / 3600)}:${two((t / 60) % 60)}:${two(t % 60)}`,
      "exif-ifd2-SubSecTimeOriginal": two((t % 1) * 100),
    };
    for (const [k, v] of Object.entries(fields)) im.setString(k, v);
    const file = join(dir, info.name);
    await writeFile(file, im.jpegsaveBuffer({ Q: 90 }));
    im.delete();
    files.push(file);
  }
  vips.shutdown();
  return { shoot, files };
}
