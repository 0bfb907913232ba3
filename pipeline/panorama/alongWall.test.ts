import { inProcess } from "../../tests/inProcess";
import { defaultRecipe } from "../recipe/recipe";
import { toWorking } from "../../core/colour/spaces";
import { shownBy } from "../../core/panorama/camera";
import { homographyOf } from "../../core/math/homography";
import { directionAt } from "../../core/panorama/canvas/projection";
import { apply } from "../../core/math/matrix3";
import { simulateAlong } from "../../simulate/along";
import { simulatedRoom } from "../../simulate/room";
import { decodeInto } from "../readFrames";
import { renderPanorama } from "./renderPanorama";
import { composePanorama } from "./composePanorama";
import { locateFrames } from "./locateFrames";

const PER_DISTANCE = 900;
const wall = simulatedRoom(2400, 1400, 52);
const watch = { progress: () => undefined };
const frames = simulateAlong(wall, PER_DISTANCE, {
  places: [-0.25, 0.25].flatMap((y, j) =>
    [-0.5, 0, 0.5].map((x, i): [number, number, number] => [
      x + 0.04 * j,
      y,
      0.05 * Math.cos(2 * i + j),
    ]),
  ),
  width: 600,
  height: 450,
  focalPx: 500,
  lean: 4,
  drift: 0.6,
  seed: 11,
});

test("a wall taken in pieces from along it comes out as one flat picture of it, with ties removed manually as well", async () => {
  const { pool, frames: read } = inProcess(
    frames.map((f, i) => ({
      name: `w${i}.png`,
      samples: f.samples,
      width: f.width,
      height: f.height,
      exif: { focalLength35: (500 / 600) * 36 },
    })),
  );
  const recipe = defaultRecipe("panorama");
  const settings = { ...recipe.panorama, taken: "flat" as const };
  const loaded = await Promise.all(read.map((f) => decodeInto(pool, f, 1)));
  const located = await locateFrames(pool, read, loaded, 1, settings, watch);
  for (const h of loaded) pool.free(h.ptr);
  const first = located.geometry.pairs[0]!;
  const struck = first.points.slice(0, 5).map(([x, y]) => ({
    a: "w0.png",
    b: `w${first.b}.png`,
    from: [x / 600, y / 450] as [number, number],
  }));
  expect(first.a).toBe(0);
  const layout = await composePanorama(
    pool,
    read,
    located,
    { panorama: { ...settings, dropped: struck }, edges: { ...recipe.edges, mode: "keep" } },
    {},
  );
  expect([layout.flat, layout.leftOut, layout.canvas.projection]).toEqual([
    true,
    [],
    "rectilinear",
  ]);
  expect(layout.pairs[0]!.points.length).toBe(first.points.length - 5);
  await expect(
    composePanorama(
      pool,
      read,
      located,
      { panorama: { ...settings, extent: [5, 5, 5, 5], yaw: 150 }, edges: recipe.edges },
      {},
    ),
  ).rejects.toMatchObject({ code: "nothing-shown" });
  const scene = await renderPanorama(
    pool,
    { frames: read, layout, canvas: layout.canvas, downscale: 1, fill: false },
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
  // from the plane as it was found to the wall
  const toWall = homographyOf(
    frames.flatMap((f, i) =>
      [
        [50, 50],
        [550, 60],
        [300, 225],
        [60, 400],
        [540, 410],
      ].map(([x, y]) => {
        const d = shownBy(layout.cameras[i]!, x!, y!);
        const t = shownBy(f.camera, x!, y!);
        return {
          from: [d[0] / d[2], d[1] / d[2]] as const,
          to: [t[0] / t[2], t[1] / t[2]] as const,
        };
      }),
    ),
  )!;
  const light = toWorking("srgb");
  let squares = 0;
  let n = 0;
  for (let y = 0; y < scene.height; y += 3)
    for (let x = 0; x < scene.width; x += 3) {
      const i = y * scene.width + x;
      const d = directionAt(layout.canvas, x + 0.5, y + 0.5)!;
      const [a, b, c] = apply(toWall, [d[0] / d[2], d[1] / d[2], 1]);
      const u = (a / c) * PER_DISTANCE + wall.width / 2 - 0.5;
      const v = (b / c) * PER_DISTANCE + wall.height / 2 - 0.5;
      if (!planes[3]![i] || u < 1 || v < 1 || u > wall.width - 2 || v > wall.height - 2) continue;
      const at = Math.floor(v) * wall.width + Math.floor(u);
      const fx = u - Math.floor(u);
      const fy = v - Math.floor(v);
      const truth = apply(
        light,
        wall.planes.map((p) =>
          Math.min(
            1,
            (p[at]! * (1 - fx) + p[at + 1]! * fx) * (1 - fy) +
              (p[at + wall.width]! * (1 - fx) + p[at + wall.width + 1]! * fx) * fy,
          ),
        ),
      );
      // clipped frames say nothing of what is brighter; and the px at the outer border hold half of
      // what they should
      for (let k = 0; k < 3; k++)
        if (truth[k]! < 0.6) {
          squares +=
            Math.min(
              0.2,
              Math.abs(Math.sqrt(Math.max(0, planes[k]![i]!)) - Math.sqrt(Math.max(0, truth[k]!))),
            ) ** 2;
          n++;
        }
    }
  process.stdout.write(
    `six frames along a wall: ${(-10 * Math.log10(squares / n)).toFixed(1)} dB against it, ties ${Math.max(...layout.rmsPx).toFixed(2)} px\n`,
  );
  expect(n).toBeGreaterThan(100000);
  expect(-10 * Math.log10(squares / n)).toBeGreaterThan(32);
  scene.release();
  expect(pool.arena.inUse).toBe(0);
});
