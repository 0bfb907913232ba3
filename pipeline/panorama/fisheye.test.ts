import { inProcess } from "../../tests/inProcess";
import { toWorking } from "../../core/colour/spaces";
import { transpose, apply, multiply } from "../../core/math/matrix3";
import { defaultRecipe } from "../recipe/recipe";
import { simulatedRoom } from "../../simulate/room";
import { scorePanorama } from "../../simulate/scorePanorama";
import { simulateSweep, worldColour } from "../../simulate/sweep";
import { directionAt } from "../../core/panorama/canvas/projection";
import { decodeInto } from "../readFrames";
import { renderPanorama } from "./renderPanorama";
import { composePanorama } from "./composePanorama";
import { locateFrames } from "./locateFrames";

const W = 760;
const H = 1140;
const CIRCLE = 360;
const CENTRE = [W / 2 + 9, H / 2 - 14] as const;
/**
 * Five frames all round with a circle of 180 degrees on a larger sensor, not quite in its middle.
 */
const world = simulatedRoom(3200, 1600, 31);
const focalPx = CIRCLE / (2 * Math.sin(Math.PI / 4));
const sweep = simulateSweep(world, {
  directions: Array.from({ length: 5 }, (_, i) => [i * 72, 0] as const),
  width: W,
  height: H,
  focalPx,
  lens: "equisolid",
  circle: CIRCLE,
  centre: CENTRE,
  distortion: [0.02, 0, 0],
  roll: 1,
  drift: 0.5,
  ev: 0.3,
  seed: 7,
});

test("frames in an image circle: the circle is seen, the lens found, and the sphere shows the world without its dark rim", async () => {
  const { pool, frames } = inProcess(
    sweep.map((f, i) => ({ name: `p${i}.png`, samples: f.samples, width: W, height: H })),
  );
  const watch = { progress: () => undefined };
  const loaded = await Promise.all(frames.map((f) => decodeInto(pool, f, 1)));
  const located = await locateFrames(
    pool,
    frames,
    loaded,
    1,
    { taken: "point", lens: "auto", circle: "auto" },
    watch,
  );
  const { cameras } = located.geometry;
  const score = scorePanorama(sweep, located.geometry);
  process.stdout.write(
    `five circles: ${JSON.stringify(score)}, circle ${cameras[0]!.circle} px of ${CIRCLE}, ${Math.max(...located.geometry.rmsPx).toFixed(2)} px\n`,
  );
  expect(score.placed).toBe(5);
  expect(cameras[0]!.lens).toBe("equisolid");
  expect(Math.abs(cameras[0]!.circle! - CIRCLE)).toBeLessThan(3);
  cameras[0]!.centre!.forEach((v, k) => expect(Math.abs(v - CENTRE[k]!)).toBeLessThan(1));
  expect(score.turn).toBeLessThan(0.05);
  expect(score.focal).toBeLessThan(0.02);
  const recipe = defaultRecipe("panorama");
  const layout = await composePanorama(
    pool,
    frames,
    located,
    { ...recipe, panorama: { ...recipe.panorama, projection: "equirectangular" } },
    {},
  );
  const scene = await renderPanorama(
    pool,
    { frames, layout, canvas: layout.canvas, downscale: 1, fill: false },
    watch,
  );
  const green = new Float32Array(
    (await pool.read(scene.ptr + scene.planeBytes, scene.width * scene.height * 4)).buffer,
  );
  const weight = new Float32Array(
    (await pool.read(scene.ptr + 3 * scene.planeBytes, scene.width * scene.height * 4)).buffer,
  );
  // the found world lies turned against the true one
  const back = multiply(sweep[0]!.camera.rotation, transpose(layout.cameras[0]!.rotation));
  const toLight = toWorking("srgb");
  let dark = 0;
  let squares = 0;
  let n = 0;
  for (let y = 0; y < scene.height; y += 2)
    for (let x = 0; x < scene.width; x += 2) {
      const i = y * scene.width + x;
      const d = directionAt(layout.canvas, x + 0.5, y + 0.5);
      const rgb: [number, number, number] = [0, 0, 0];
      if (!weight[i] || !d) continue;
      worldColour(world, apply(back, d), rgb);
      const truth = apply(
        toLight,
        rgb.map((v) => Math.min(1, v * 2 ** 0.3)),
      )[1]!;
      n++;
      if (truth > 0.05 && green[i]! < 0.5 * truth) dark++;
      squares +=
        Math.min(
          0.2,
          Math.abs(Math.sqrt(Math.max(0, green[i]!)) - Math.sqrt(Math.max(0, truth))),
        ) ** 2;
    }
  process.stdout.write(
    `five circles joined: ${(-10 * Math.log10(squares / n)).toFixed(1)} dB, ${((100 * dark) / n).toFixed(2)} % dark\n`,
  );
  expect(dark / n).toBeLessThan(0.01);
  scene.release();
  for (const h of loaded) pool.free(h.ptr);
});
