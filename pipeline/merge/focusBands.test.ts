import { inProcess } from "../../tests/inProcess";
import type { Accumulator } from "../../core/raster/accumulator";
import { pose, srgbResponse, takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import { invert, multiply } from "../../core/math/matrix3";
import type { Aligned } from "../align/step";
import { depthInBands, focusBand } from "./focusBands";
import { focusFrames } from "./focusFrames";
import type { FocusMethod } from "./focusPass";

const W = 260;
const H = 1930;
const watch = { progress: () => undefined };
const scene = simulatedRoom(340, 2010, 7);
// one scene, each frame sharp in a stripe of its own and blurred elsewhere, hand-held
const poses = [0, 1, 2, 3].map((i) => pose(W, H, i * 0.05, 40 + i * 0.7, 40 - i * 0.4, i * 0.0005));
const shots = poses.map((toScene, i) => {
  const sharp = takeFrame(scene, {
    width: W,
    height: H,
    ev: -0.5,
    toScene,
    seed: 50 + i,
    vignetting: 0,
    response: srgbResponse,
    gain: 20000,
    read: 7e-4,
  }) as Uint8Array;
  const out = sharp.slice();
  for (let y = 0; y < H; y++)
    if (Math.floor((y / H) * 8) % 4 !== i)
      for (let x = 0; x < W; x++)
        for (let c = 0; c < 3; c++) {
          let sum = 0;
          let n = 0;
          for (let v = Math.max(0, y - 3); v <= Math.min(H - 1, y + 3); v++)
            for (let u = Math.max(0, x - 3); u <= Math.min(W - 1, x + 3); u++, n++)
              sum += sharp[(v * W + u) * 3 + c]!;
          out[(y * W + x) * 3 + c] = Math.round(sum / n);
        }
  return out;
});
const aligned = {
  reference: 0,
  order: [0, 1, 2, 3],
  frames: poses.map((p) => ({
    fromReference: multiply(invert(p), poses[0]!),
    ev: 0,
    gainEv: 0,
    residualPx: 0,
    movedPx: 0,
    used: true,
  })),
} as unknown as Aligned;
const planesOf = (
  pool: ReturnType<typeof inProcess>["pool"],
  acc: Accumulator,
): Promise<Float32Array[]> =>
  Promise.all(
    [0, 1, 2].map(
      async (c) =>
        new Float32Array(
          (await pool.read(acc.ptr + c * acc.planeBytes, acc.width * acc.height * 4)).buffer,
        ),
    ),
  );

test.each(["pyramid", "mixed"] as FocusMethod[])(
  "a focus run by %s in bands gives the bytes of the run at once, and all memory back",
  async (method) => {
    const { pool, frames } = inProcess(
      shots.map((samples, i) => ({ name: `f${i}.png`, samples, width: W, height: H })),
    );
    const input = { frames, aligned, reference: 0, downscale: 1, patches: [] };
    const whole = await focusFrames(pool, input, method, watch);
    const all = await planesOf(pool, whole);
    whole.release();
    const bands = [
      { y0: 0, y1: 640 },
      { y0: 640, y1: 1280 },
      { y0: 1280, y1: H },
    ];
    const depth = method === "pyramid" ? undefined : await depthInBands(pool, input, bands, watch);
    for (const band of bands) {
      const { rows, done } = await focusBand(pool, input, band, method, depth, watch);
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
    for (const at of depth ? [depth.depth, depth.trust] : []) pool.free(at);
    expect(pool.arena.inUse).toBe(0);
  },
);
