// Puts a photograph through the simulated camera: node build/node/benchPhotographBracket.js DIR PHOTOGRAPH SEED [WIDTH [HAND [EVS]]]
// Its light is multiplied by an illumination of several stops with hard-edged openings, and what is dark in it is black.
// Writes a bracket as JPEGs with EXIF, and truth.json with each frame's way to the scene, row-major.
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { decode, SPACES } from "../core/colour/spaces";
import { simulateBracket } from "../core/simulate/bracket";
import type { RadianceImage } from "../core/simulate/camera";
import { random } from "../core/simulate/random";

/** Px by which the scene reaches beyond a frame on every side. */
const MARGIN = 60;
/** Stops between the darkest corner and the openings. */
const FALL_EV = 4, OPENING_EV = 5;
/** Light below which the photograph is pure black. */
const BLACK = 4e-4;

const [dir, photograph, seedText, widthText = "2400", handText = "1", evsText = "-4,-2,0,2,4"] = process.argv.slice(2) as [string, string, string, string?, string?, string?];
const seed = Number(seedText), width = Number(widthText), height = Math.round(width / 24) * 16, evs = evsText.split(",").map(Number);
const vips = await Vips({ dynamicLibraries: [] });
const size = { width: width + 2 * MARGIN, height: height + 2 * MARGIN };
const photo = vips.Image.thumbnail(photograph, size.width, { height: size.height, crop: "centre", size: "both" }).colourspace("srgb");
const rgb = (photo.bands > 3 ? photo.flatten() : photo).cast("uchar"), samples = rgb.writeToMemory();

const rnd = random(seed);
const openings = Array.from({ length: 3 }, () => ({ x: rnd(), y: rnd(), width: 0.06 + 0.15 * rnd(), height: 0.08 + 0.2 * rnd(), ev: OPENING_EV * (0.5 + 0.5 * rnd()) }));
const [slopeX, slopeY] = [(rnd() - 0.5) * FALL_EV, (rnd() - 0.5) * FALL_EV];
const planes = [0, 1, 2].map(() => new Float32Array(size.width * size.height)) as [Float32Array, Float32Array, Float32Array];
for (let y = 0, i = 0; y < size.height; y++) for (let x = 0; x < size.width; x++, i++) {
  const u = x / size.width, v = y / size.height;
  const opening = openings.find((o) => Math.abs(u - o.x) < o.width / 2 && Math.abs(v - o.y) < o.height / 2);
  const light = 2 ** ((u - 0.5) * slopeX + (v - 0.5) * slopeY + (opening?.ev ?? -1));
  for (let c = 0; c < 3; c++) {
    const own = decode(SPACES.srgb.curve, samples[i * 3 + c]! / 255);
    planes[c]![i] = own < BLACK ? 0 : own * light;
  }
}
const scene: RadianceImage = { ...size, planes };
const reference = evs.length >> 1;
const { frames } = simulateBracket(scene, { width, height, evs, baseEv: 0, hand: Number(handText), seed, reference });
await mkdir(dir, { recursive: true });
for (const [i, frame] of frames.entries()) {
  const image = vips.Image.newFromMemory(frame.samples as Uint8Array, width, height, 3, vips.BandFormat.uchar).copy({ interpretation: "srgb" });
  image.setString("exif-ifd2-ExposureTime", `${Math.round((1e6 / 60) * 2 ** frame.ev)}/1000000`);
  image.setString("exif-ifd2-FNumber", "8/1");
  image.setString("exif-ifd2-DateTimeOriginal", `2026:09:14 10:00:${String(i).padStart(2, "0")}`);
  await writeFile(join(dir, `f${i}.jpg`), image.jpegsaveBuffer({ Q: 92 }));
  image.delete();
}
await writeFile(join(dir, "truth.json"), JSON.stringify({ photograph, seed, width, height, reference, frames: frames.map(({ ev, toScene }, i) => ({ name: `f${i}.jpg`, ev, toScene })) }));
process.exit(0);
