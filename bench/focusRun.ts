// Writes a simulated focus run as PNGs, with the sharp scene: node build/node/benchFocus.js DIR
// WIDTH COUNT SEED [tripod|hand|shuffled]
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulateFocusRun } from "../simulate/focusRun";
import { random } from "../core/math/random";
import { simulatedRoom } from "../simulate/room";

const [dir, width, count, seed, mode = "tripod"] = [
  process.argv[2]!,
  Number(process.argv[3]),
  Number(process.argv[4]),
  Number(process.argv[5]),
  process.argv[6],
];
const height = Math.round((width * 2) / 3);
const moves = mode !== "tripod";
const run = simulateFocusRun(simulatedRoom(width, height, seed), {
  width,
  height,
  count,
  blur: width / 60,
  breathing: 0.03,
  shift: moves ? 12 : 0,
  roll: moves ? 0.6 : 0,
  flicker: moves ? 0.1 : 0,
  seed,
});
await mkdir(dir, { recursive: true });
const vips = await Vips({ dynamicLibraries: [] });
const rnd = random(seed);
const order = run.frames.map((_, i) => i);
if (mode === "shuffled") order.sort(() => rnd() - 0.5);
const save = (samples: Uint8Array, file: string): Promise<void> => {
  const im = vips.Image.newFromMemory(samples, width, height, 3, vips.BandFormat.uchar).copy({
    interpretation: "srgb",
  });
  const bytes = im.pngsaveBuffer();
  im.delete();
  return writeFile(file, bytes);
};
for (const [k, i] of order.entries())
  await save(run.frames[i]!.samples, join(dir, `f${String(k).padStart(2, "0")}.png`));
await save(run.sharp, join(dir, "sharp.png"));
await writeFile(join(dir, "truth.json"), JSON.stringify({ order }));
process.exit(0);
