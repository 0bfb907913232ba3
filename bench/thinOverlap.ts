// Rows of five frames that overlap by a quarter, with drift and the sun in one of them: node build/node/benchThinOverlap.js SEED PHOTOGRAPH...
// Per photograph the worst error of a turn between neighbours and of the focal length, against the truth.
import { placeSweep, scorePanorama } from "../core/simulate/scorePanorama";
import { simulateSweep, type World } from "../core/simulate/sweep";
import { photographLight, throughJpeg } from "./photographScene";

const W = 1200, H = 800, RAD = Math.PI / 180, ACROSS = 28, FRAMES = 5, STEP = ACROSS * 0.75;
const focalPx = W / 2 / Math.tan((ACROSS / 2) * RAD);
const [seedText, ...photographs] = process.argv.slice(2);
const turns: number[] = [];
for (const [k, photograph] of photographs.entries()) {
  const seed = Number(seedText) + k, across = (FRAMES - 1) * STEP + ACROSS + 6, down = 30, scale = focalPx * RAD;
  const light = photographLight(photograph, Math.round(across * scale), Math.round(down * scale));
  // the sun and its glow, in the second frame
  const [sx, sy] = [light.width * (0.32 + 0.02 * (seed % 5)), light.height * 0.3], radius = 0.27 * scale;
  for (const plane of light.planes) plane.forEach((v, i) => { const d = Math.hypot((i % light.width) - sx, Math.floor(i / light.width) - sy); plane[i] = v * 0.6 + (d < radius ? 200 : 0) + 3 / (1 + (d / (radius * 2)) ** 2); });
  const world: World = { ...light, piece: { across, down } };
  const frames = simulateSweep(world, { directions: Array.from({ length: FRAMES }, (_, i): [number, number] => [(i - (FRAMES - 1) / 2) * STEP, 0]), width: W, height: H, focalPx, distortion: [-0.02, 0.004, 0], roll: 0.8, drift: 1, vignetting: 0.25, seed });
  const files = frames.map((f) => ({ ...f, samples: throughJpeg(f.samples, W, H) }));
  const score = scorePanorama(files, placeSweep(files, focalPx));
  turns.push(score.turn);
  process.stdout.write(`${photograph.split("/").at(-1)!.slice(0, 18)} placed ${score.placed} turn ${score.turn.toFixed(3)} focal ${(100 * score.focal).toFixed(2)} % horizon ${score.horizon.toFixed(2)}\n`);
}
turns.sort((a, b) => a - b);
process.stdout.write(`turn: middle ${turns[turns.length >> 1]!.toFixed(3)}, worst ${turns.at(-1)!.toFixed(3)} degrees\n`);
process.exit(0);
