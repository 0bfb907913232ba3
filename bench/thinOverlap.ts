// Rows of five frames that overlap by a quarter, with drift, and the sun and its flare in one of
// them: node build/node/benchThinOverlap.js SEED PHOTOGRAPH... Per photograph the worst error of a
// turn between neighbours, the error of the focal length, and dB of the joined picture against the
// scene, each channel's exposure left free.
import { type Camera } from "../core/panorama/camera";
import { transpose, apply, multiply } from "../core/math/matrix3";
import { directionAt } from "../core/panorama/canvas/projection";
import { defaultRecipe } from "../pipeline/recipe/recipe";
import { toWorking } from "../core/colour/spaces";
import { scorePanorama } from "../simulate/scorePanorama";
import { simulateSweep, worldColour, type SweepFrame, type World } from "../simulate/sweep";
import { composePanorama } from "../pipeline/panorama/composePanorama";
import { locateFrames } from "../pipeline/panorama/locateFrames";
import { renderPanorama } from "../pipeline/panorama/renderPanorama";
import { decodeInto } from "../pipeline/readFrames";
import { median } from "../core/math/median";
import { inProcess } from "../tests/inProcess";
import { photographLight, throughJpeg } from "./photographScene";

const WIDTH = 1200;
const HEIGHT = 800;
const RADIANS = Math.PI / 180;
const ACROSS = 28;
const FRAMES = 5;
const STEP = ACROSS * 0.75;
const focalPx = WIDTH / 2 / Math.tan((ACROSS / 2) * RADIANS);
const SUN_DEGREES = 0.27;
const SUN = 200;
/** The frame that has the sun in it throws some of its light all over itself. */
const FLARE = [
  { scale: -0.8, blur: 160, share: [0.004, 0.003, 0.003] as const },
  { scale: 1, blur: 500, share: [0.05, 0.05, 0.05] as const },
];

/** A scene round the camera, with the sun in the second frame's place. */
function sunlitWorld(photograph: string, seed: number): World {
  const across = (FRAMES - 1) * STEP + ACROSS + 6;
  const down = 30;
  const scale = focalPx * RADIANS;
  const light = photographLight(photograph, Math.round(across * scale), Math.round(down * scale));
  const sunX = light.width * (0.32 + 0.02 * (seed % 5));
  const sunY = light.height * 0.3;
  const radius = SUN_DEGREES * scale;
  for (const plane of light.planes) {
    plane.forEach((value, i) => {
      const distance = Math.hypot((i % light.width) - sunX, Math.floor(i / light.width) - sunY);
      plane[i] =
        value * 0.6 + (distance < radius ? SUN : 0) + 3 / (1 + (distance / (radius * 2)) ** 2);
    });
  }
  return { ...light, piece: { across, down } };
}

function takeRow(world: World, seed: number): SweepFrame[] {
  const directions = Array.from({ length: FRAMES }, (_, i): [number, number] => [
    (i - (FRAMES - 1) / 2) * STEP,
    0,
  ]);
  const frames = simulateSweep(world, {
    directions,
    width: WIDTH,
    height: HEIGHT,
    focalPx,
    distortion: [-0.02, 0.004, 0],
    roll: 0.8,
    drift: 1,
    vignetting: 0.25,
    ghosts: FLARE,
    seed,
  });
  return frames.map((frame) => ({ ...frame, samples: throughJpeg(frame.samples, WIDTH, HEIGHT) }));
}

/**
 * dB of the joined picture against the scene where that is not clipped, square roots of light
 * compared.
 */
function decibels(
  planes: readonly Float32Array[],
  canvas: Parameters<typeof directionAt>[0],
  world: World,
  toWorld: readonly number[],
): number {
  const compared: [found: number, truth: number][][] = [[], [], []];
  const light: [number, number, number] = [0, 0, 0];
  for (let y = 2; y < canvas.height; y += 3) {
    for (let x = 2; x < canvas.width; x += 3) {
      const i = y * canvas.width + x;
      const direction = directionAt(canvas, x + 0.5, y + 0.5);
      if (!direction || !(planes[3]![i]! > 0.99)) continue;
      worldColour(world, apply(toWorld, direction), light);
      if (Math.max(...light) > 0.6) continue;
      const truth = apply(toWorking("srgb"), light);
      for (let c = 0; c < 3; c++)
        compared[c]!.push([Math.max(0, planes[c]![i]!), Math.max(0, truth[c]!)]);
    }
  }
  let squares = 0;
  for (const channel of compared) {
    const gain = median(
      channel.filter(([found]) => found > 0.01).map(([found, truth]) => truth / found),
    );
    for (const [found, truth] of channel)
      squares += (Math.sqrt(found * gain) - Math.sqrt(truth)) ** 2;
  }
  return -10 * Math.log10(squares / (3 * compared[0]!.length));
}

async function join(files: readonly SweepFrame[]) {
  const { pool, frames } = inProcess(
    files.map((f, i) => ({
      name: `p${i}.png`,
      samples: f.samples,
      width: WIDTH,
      height: HEIGHT,
      exif: { focalLength35: (focalPx / WIDTH) * 36 },
    })),
  );
  const loaded = await Promise.all(frames.map((frame) => decodeInto(pool, frame, 1)));
  const settings = defaultRecipe("panorama");
  const watch = { progress: () => undefined };
  const located = await locateFrames(pool, frames, loaded, 1, settings.panorama, watch);
  const layout = await composePanorama(pool, frames, located, settings, {});
  const scene = await renderPanorama(
    pool,
    { frames, layout, canvas: layout.canvas, downscale: 1, fill: false },
    watch,
  );
  const planes = await Promise.all(
    [0, 1, 2, 3].map(
      async (c) =>
        new Float32Array(
          (await pool.read(scene.ptr + c * scene.planeBytes, scene.width * scene.height * 4))
            .buffer,
        ),
    ),
  );
  return { layout, planes };
}

const [seedText, ...photographs] = process.argv.slice(2);
const scores: { turn: number; picture: number }[] = [];
for (const [k, photograph] of photographs.entries()) {
  const seed = Number(seedText) + k;
  const world = sunlitWorld(photograph, seed);
  const files = takeRow(world, seed);
  const { layout, planes } = await join(files);
  const score = scorePanorama(files, layout);
  const first = layout.cameras.findIndex(Boolean);
  const toWorld = multiply(
    (files[first]!.camera as Camera).rotation,
    transpose(layout.cameras[first]!.rotation),
  );
  const picture = decibels(planes, layout.canvas, world, toWorld);
  scores.push({ turn: score.turn, picture });
  const name = photograph.split("/").slice(-4).join("/").slice(0, 24);
  process.stdout.write(
    `${name} placed ${score.placed} turn ${score.turn.toFixed(3)} focal ${(100 * score.focal).toFixed(2)} % ${picture.toFixed(1)} dB\n`,
  );
}
const worstTurn = Math.max(...scores.map((s) => s.turn));
process.stdout.write(
  `turn: middle ${median(scores.map((s) => s.turn)).toFixed(3)}, worst ${worstTurn.toFixed(3)} degrees; ${Math.min(...scores.map((s) => s.picture)).toFixed(1)} dB at worst\n`,
);
process.exit(0);
