import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { demoFrame } from "../cli/calls";

/** Seconds between the brackets of a folder. */
const BETWEEN = 60;
const BEGAN = Date.UTC(2026, 8, 14, 18, 0, 0);
/** First, middle and last exposures of the demo's brackets. */
const ROOMS = [
  [412, 414, 416],
  [417, 420, 423],
  [424, 426, 428],
  [429, 430, 431],
];
/** Parts into which a room's frames are cut; no two overlap. */
const CUT = { across: 5, down: 6 };
/** As many brackets as there are. */
export const MOST_BRACKETS = ROOMS.length * CUT.across * CUT.down;

/** A time as EXIF has it. */
const written = (ms: number): string =>
  new Date(ms).toISOString().slice(0, 19).replaceAll("-", ":").replace("T", " ");

/**
 * Writes a folder of brackets of three small frames, each of another part of a room.
 *
 * @returns the files
 */
export async function writeSmallBrackets(dir: string, count: number): Promise<string[]> {
  const vips = await Vips({ dynamicLibraries: [] });
  await mkdir(dir, { recursive: true });
  const rooms = ROOMS.map((room) =>
    room.map((number) => vips.Image.newFromFile(demoFrame(number))),
  );
  const files: string[] = [];
  for (let k = 0; k < count; k++)
    for (const [e, frame] of rooms[k % rooms.length]!.entries()) {
      const cell = Math.floor(k / rooms.length);
      const width = Math.floor(frame.width / CUT.across);
      const height = Math.floor(frame.height / CUT.down);
      const x = (cell % CUT.across) * width;
      const y = Math.floor(cell / CUT.across) * height;
      const part = frame.extractArea(x, y, width, height).copy();
      const at = written(BEGAN + (k * BETWEEN + e) * 1000);
      part.setString("exif-ifd2-DateTimeOriginal", at);
      const file = join(dir, `SB_${1000 + files.length}.jpg`);
      await writeFile(file, part.jpegsaveBuffer({ Q: 92 }));
      part.delete();
      files.push(file);
    }
  vips.shutdown();
  return files;
}
