// Puts a photograph through the simulated camera: node build/node/benchPhotographBracket.js DIR
// PHOTOGRAPH SEED [WIDTH [HAND [EVS]]] Writes a bracket as JPEGs with EXIF, and truth.json with
// each frame's way to the scene, row-major.
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { simulateBracket } from "../simulate/bracket";
import { illuminate, toJpeg } from "./photographScene";

/** Px by which the scene reaches beyond a frame on every side. */
const MARGIN = 60;

const [dir, photograph, seedText, widthText = "2400", handText = "1", evsText = "-4,-2,0,2,4"] =
  process.argv.slice(2) as [string, string, string, string?, string?, string?];
const seed = Number(seedText);
const width = Number(widthText);
const height = Math.round(width / 24) * 16;
const evs = evsText.split(",").map(Number);
const scene = illuminate(photograph, width + 2 * MARGIN, height + 2 * MARGIN, seed);
const reference = evs.length >> 1;
const { frames } = simulateBracket(scene, {
  width,
  height,
  evs,
  baseEv: 0,
  hand: Number(handText),
  seed,
  reference,
});
await mkdir(dir, { recursive: true });
for (const [i, frame] of frames.entries()) {
  const exif = {
    ExposureTime: `${Math.round((1e6 / 60) * 2 ** frame.ev)}/1000000`,
    FNumber: "8/1",
    DateTimeOriginal: `2026:09:14 10:00:${String(i).padStart(2, "0")}`,
  };
  await writeFile(
    join(dir, `f${i}.jpg`),
    toJpeg(frame.samples as Uint8Array, width, height, exif, 92),
  );
}
await writeFile(
  join(dir, "truth.json"),
  JSON.stringify({
    photograph,
    seed,
    width,
    height,
    reference,
    frames: frames.map(({ ev, toScene }, i) => ({ name: `f${i}.jpg`, ev, toScene })),
  }),
);
process.exit(0);
