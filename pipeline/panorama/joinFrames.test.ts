import { inProcess } from "../../tests/inProcess";
import { decode, SPACES, toWorking } from "../../core/colour/spaces";
import { canvasFor, directionAt } from "../../core/panorama/canvas/projection";
import { findSeams } from "../../tests/findSeams";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep, worldColour } from "../../simulate/sweep";
import { apply } from "../../core/math/matrix3";
import type { Layout } from "./layout";
import { bandsOf, joinFrames, renderPanorama, WHOLE_PX } from "./renderPanorama";

const world = simulatedRoom(2400, 1200, 8);
const watch = { progress: () => undefined };
const sweep = simulateSweep(world, {
  directions: [-16, 16].flatMap((pitch) => [-24, 0, 24].map((yaw) => [yaw, pitch] as const)),
  width: 420,
  height: 420,
  focalPx: 520,
  seed: 4,
});
const LUT = Float32Array.from({ length: 256 }, (_, i) => decode(SPACES.srgb.curve, i / 255));

/** The six frames placed where they were taken. */
function placed(projection: "cylindrical" | "equirectangular") {
  const host = inProcess(
    sweep.map((f, i) => ({
      name: `p${i}.png`,
      samples: f.samples,
      width: f.width,
      height: f.height,
    })),
  );
  const cameras = sweep.map((f) => f.camera);
  const canvas = canvasFor(cameras, { projection, most: 1e9 });
  const light = {
    gains: sweep.map((): [number, number, number] => [1, 1, 1]),
    vignetting: [0, 0] as [number, number],
  };
  const { labels } = findSeams(
    cameras,
    canvas,
    (i, x, y) => {
      const f = sweep[i]!;
      const k =
        (Math.min(f.height - 1, Math.floor(y)) * f.width + Math.min(f.width - 1, Math.floor(x))) *
        3;
      return [LUT[f.samples[k]!]!, LUT[f.samples[k + 1]!]!, LUT[f.samples[k + 2]!]!];
    },
    light,
  );
  const layout: Layout = {
    cameras,
    light,
    canvas,
    labels,
    suspects: [],
    turned: [1, 0, 0, 0, 1, 0, 0, 0, 1],
    pairs: [],
    leftOut: [],
    warnings: [],
    rmsPx: sweep.map(() => 0),
  } as unknown as Layout;
  return { ...host, layout, canvas };
}
const planesOf = async (
  pool: ReturnType<typeof inProcess>["pool"],
  acc: { ptr: number; planeBytes: number; width: number; height: number },
): Promise<Float32Array[]> =>
  Promise.all(
    [0, 1, 2, 3].map(
      async (c) =>
        new Float32Array(
          (await pool.read(acc.ptr + c * acc.planeBytes, acc.width * acc.height * 4)).buffer,
        ),
    ),
  );

test("frames joined on a canvas show the world as it is, and what none covers is empty", async () => {
  const { pool, frames, layout, canvas } = placed("cylindrical");
  const scene = await renderPanorama(
    pool,
    { frames, layout, canvas, downscale: 1, fill: false },
    watch,
  );
  const planes = await planesOf(pool, scene);
  const toLight = toWorking("srgb");
  let squares = 0;
  let n = 0;
  let empty = 0;
  for (let y = 0; y < scene.height; y += 3)
    for (let x = 0; x < scene.width; x += 3) {
      const i = y * scene.width + x;
      const rgb: [number, number, number] = [0, 0, 0];
      if (!planes[3]![i]) {
        empty++;
        continue;
      }
      worldColour(world, directionAt(canvas, x + 0.5, y + 0.5)!, rgb);
      const truth = apply(
        toLight,
        rgb.map((v) => Math.min(1, v)),
      );
      // the few px at the frames' outer border hold half of what they should
      for (let c = 0; c < 3; c++)
        squares +=
          Math.min(
            0.2,
            Math.abs(Math.sqrt(Math.max(0, planes[c]![i]!)) - Math.sqrt(Math.max(0, truth[c]!))),
          ) ** 2;
      n += 3;
    }
  process.stdout.write(
    `six frames joined: ${(-10 * Math.log10(squares / n)).toFixed(1)} dB against the world\n`,
  );
  expect(-10 * Math.log10(squares / n)).toBeGreaterThan(36);
  expect(empty).toBeGreaterThan(0);
  scene.release();
  expect(pool.arena.inUse).toBe(0);
});

test.each(["cylindrical", "equirectangular"] as const)(
  "a %s picture in bands is the picture, and gives all its memory back",
  async (projection) => {
    const { pool, frames, layout, canvas } = placed(projection);
    const input = { frames, layout, canvas, downscale: 1 };
    const whole = await joinFrames(pool, input, { y0: 0, y1: canvas.height }, watch);
    const all = await planesOf(pool, whole);
    for (const [y0, y1] of [
      [0, 128],
      [128, 448],
      [448, canvas.height],
    ] as const) {
      const band = await joinFrames(pool, input, { y0, y1 }, watch);
      const own = await planesOf(pool, band);
      expect(band.height).toBe(y1 - y0);
      let most = 0;
      own.forEach((plane, c) =>
        plane.forEach((v, i) => {
          most = Math.max(most, Math.abs(v - all[c]![y0 * canvas.width + i]!));
        }),
      );
      // the mask's last traces reach a little further than a piece
      expect(most).toBeLessThan(2e-3);
      pool.free(band.ptr);
    }
    pool.free(whole.ptr);
    expect(pool.arena.inUse).toBe(0);
  },
);

test("frames that look straight up and down, whose light falls off steeply, leave no hole and no light without end", async () => {
  const all = simulateSweep(world, {
    directions: [
      [0, 0],
      [90, 0],
      [180, 0],
      [270, 0],
      [10, 72],
      [30, -70],
    ],
    width: 200,
    height: 200,
    focalPx: 90,
    vignetting: 0.3,
    seed: 9,
  });
  const cameras = all.map((f) => f.camera);
  const { pool, frames } = inProcess(
    all.map((f, i) => ({
      name: `p${i}.png`,
      samples: f.samples,
      width: f.width,
      height: f.height,
    })),
  );
  const canvas = canvasFor(cameras, { projection: "equirectangular", most: 1e9 });
  const light = {
    gains: all.map((): [number, number, number] => [1, 1, 1]),
    vignetting: [-0.2, -0.15] as [number, number],
  };
  const { labels } = findSeams(cameras, canvas, () => [0.5, 0.5, 0.5], light);
  const layout = { cameras, light, canvas, labels } as unknown as Layout;
  const acc = await joinFrames(
    pool,
    { frames, layout, canvas, downscale: 1 },
    { y0: 0, y1: canvas.height },
    watch,
  );
  const planes = await planesOf(pool, acc);
  for (const plane of planes.slice(0, 3)) {
    expect(plane.every((v) => Number.isFinite(v))).toBe(true);
    expect(
      Math.max(...Array.from({ length: plane.length / 7 }, (_, i) => plane[i * 7]!)),
    ).toBeLessThan(3);
  }
  const seen = labels.of.filter((l) => l > 0).length / labels.of.length;
  expect(planes[3]!.filter((w) => w > 0).length / planes[3]!.length).toBeGreaterThan(seen - 0.01);
});

test("bands follow from the canvas alone, cover it, and begin where pyramids do", () => {
  expect(bandsOf({ width: 10000, height: 4400 })).toEqual([{ y0: 0, y1: 4400 }]);
  for (const [width, height] of [
    [20000, 10000],
    [60000, 3333],
    [9000, 9001],
  ] as const) {
    const bands = bandsOf({ width, height });
    expect(bands[0]!.y0).toBe(0);
    expect(bands.at(-1)!.y1).toBe(height);
    bands.slice(1).forEach((b, i) => {
      expect(b.y0).toBe(bands[i]!.y1);
      expect(b.y0 % 64).toBe(0);
    });
    expect(Math.max(...bands.map((b) => (b.y1 - b.y0) * width))).toBeLessThan(WHOLE_PX / 2);
  }
});

test("stopped half-way, the memory is given back", async () => {
  const { pool, frames, layout, canvas } = placed("cylindrical");
  const stopper = new AbortController();
  const joining = joinFrames(
    pool,
    { frames, layout, canvas, downscale: 1 },
    { y0: 0, y1: canvas.height },
    { signal: stopper.signal, progress: () => stopper.abort() },
  );
  await expect(joining).rejects.toMatchObject({ code: "stopped" });
  await pool.idle();
  await new Promise((ok) => setTimeout(ok, 20));
  expect(pool.arena.inUse).toBe(0);
});
