import { TaskScope } from "../../runtime/taskScope";
import type { WorkTasks } from "../work";
import { inProcess } from "../../tests/inProcess";
import { simulatedRoom } from "../../simulate/room";
import { pose, srgbResponse, takeFrame } from "../../simulate/camera";
import type { Aligned } from "../align/step";
import { invert, multiply } from "../../core/math/matrix3";
import type { Accumulator } from "../../core/raster/accumulator";
import { fuseBand, fuseCoarse } from "./fuseBands";
import { fuseFrames } from "./fuseFrames";

const W = 330;
const H = 420;
const watch = { progress: () => undefined };
const scene = simulatedRoom(500, 560, 12);
const poses = [
  pose(W, H, 0, 40, 50, 0),
  pose(W, H, 0.8, 44.3, 46.8, 0.001),
  pose(W, H, -0.6, 37.2, 53.1, -0.002),
];
const shots = [0, 2, -2].map(
  (ev, i) =>
    takeFrame(scene, {
      width: W,
      height: H,
      ev: ev - 0.5,
      toScene: poses[i]!,
      seed: 30 + i,
      vignetting: 0,
      response: srgbResponse,
      gain: 20000,
      read: 7e-4,
    }) as Uint8Array,
);
/** Frame px from reference px, as an alignment would find it. */
const fromReference = (i: number): number[] => multiply(invert(poses[i]!), poses[0]!);

const confidences = new Uint8Array(Math.ceil(W / 16) * Math.ceil(H / 16)).fill(255);
for (let y = 9; y < 14; y++)
  for (let x = 6; x < 11; x++) confidences[y * Math.ceil(W / 16) + x] = 0;
const aligned = {
  reference: 0,
  motion: "homography",
  warnings: [],
  frames: shots.map((_, i) => ({
    fromReference: fromReference(i),
    ev: [0, 2, -2][i]!,
    gainEv: 0,
    residualPx: 0,
    movedPx: 0,
    used: true,
    ...(i === 1
      ? {
          ghosts: {
            width: Math.ceil(W / 16),
            height: Math.ceil(H / 16),
            scale: 16,
            confidences,
            share: 0.1,
          },
        }
      : {}),
  })),
} as unknown as Aligned;

async function planesOf(
  pool: ReturnType<typeof inProcess>["pool"],
  acc: Accumulator,
): Promise<Float32Array[]> {
  return Promise.all(
    [0, 1, 2].map(
      async (c) =>
        new Float32Array(
          (await pool.read(acc.ptr + c * acc.planeBytes, acc.width * acc.height * 4)).buffer,
        ),
    ),
  );
}

test("a fusion in bands gives the bytes of the fusion at once, moved frames and things that move included, and all memory back", async () => {
  const { pool, frames } = inProcess(
    shots.map((samples, i) => ({ name: `f${i}.png`, samples, width: W, height: H })),
  );
  const input = { frames, aligned, reference: 0, downscale: 1, patches: [] };
  const whole = await fuseFrames(pool, input, watch);
  const all = await planesOf(pool, whole);
  whole.release();
  const bands = [
    { y0: 0, y1: 128 },
    { y0: 128, y1: 272 },
    { y0: 272, y1: H },
  ];
  const coarse = await fuseCoarse(pool, input, bands, watch);
  for (const band of bands) {
    const { rows, done } = await fuseBand(pool, input, band, coarse, watch);
    const own = await planesOf(pool, rows);
    own.forEach((plane, c) =>
      expect(
        Buffer.compare(
          Buffer.from(plane.buffer),
          Buffer.from(all[c]!.slice(band.y0 * W, band.y1 * W).buffer),
        ),
      ).toBe(0),
    );
    done();
  }
  coarse.at.forEach((at) => pool.free(at));
  expect(pool.arena.inUse).toBe(0);
});

test("stopped in the midst of a band, nothing is kept", async () => {
  const { pool, frames } = inProcess(
    shots.map((samples, i) => ({ name: `f${i}.png`, samples, width: W, height: H })),
  );
  const stopper = new AbortController();
  const scope = new TaskScope<WorkTasks>(pool);
  const asked = fuseCoarse(
    scope,
    { frames, aligned, reference: 0, downscale: 1, patches: [] },
    [
      { y0: 0, y1: 208 },
      { y0: 208, y1: H },
    ],
    {
      signal: stopper.signal,
      progress: (share) => {
        if (share > 0.6) stopper.abort();
      },
    },
  );
  await expect(asked).rejects.toMatchObject({ code: "stopped" });
  await scope[Symbol.asyncDispose]();
  expect(pool.arena.inUse).toBe(0);
});
