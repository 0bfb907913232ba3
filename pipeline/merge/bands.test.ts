import { inProcess } from "../../tests/inProcess";
import { AS_TAKEN } from "../../core/frame/preparation";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import type { Accumulator } from "../../core/raster/accumulator";
import type { Aligned } from "../align/step";
import type { StackFrame } from "../work";
import { mergeInBands, rowsThatFit } from "./bands";
import { mergeFrames } from "./mergeFrames";
import { mergeStep, type MergeSettings } from "./step";

const stack = (
  n: number,
  width: number,
  height: number,
  preparation?: StackFrame["preparation"],
): StackFrame[] =>
  Array.from({ length: n }, (_, i) => ({
    id: `${i}`,
    content: `${i}`,
    source: { name: `${i}.jpg` },
    info: { name: `${i}.jpg`, format: "jpeg", width, height, depth: 8, profile: "sRGB", exif: {} },
    ...(preparation ? { preparation } : {}),
  }));
const by = (method: MergeSettings["method"]): MergeSettings => ({
  ...mergeStep.settings.defaults,
  method,
});

test.each(["radiance", "fusion", "pyramid", "mixed"] as const)(
  "%s: more memory holds more rows, never more than there are, and always some",
  (method) => {
    const frames = stack(5, 12000, 8000);
    const rows = [0, 0.3e9, 0.8e9, 1.4e9, 3e9, 60e9].map((bytes) =>
      rowsThatFit(frames, by(method), bytes),
    );
    expect(rows[0]).toBe(256);
    rows.slice(1).forEach((r, i) => expect(r).toBeGreaterThanOrEqual(rows[i]!));
    expect(rows.at(-1)).toBe(8000);
    for (const r of rows.slice(0, -1)) expect(r % 64).toBe(0);
    expect(rows[3]).toBeLessThan(8000);
  },
);

test("frames that are prepared take more, and the rows round a band that a lens draws from count", () => {
  const plain = rowsThatFit(stack(3, 12000, 8000), by("radiance"), 1.2e9);
  const smoothed = rowsThatFit(
    stack(3, 12000, 8000, { ...AS_TAKEN, noise: 0.5 }),
    by("radiance"),
    1.2e9,
  );
  const both = rowsThatFit(
    stack(3, 12000, 8000, { ...AS_TAKEN, noise: 0.5, distortion: 0.1 }),
    by("radiance"),
    1.2e9,
  );
  expect(smoothed).toBeLessThan(plain);
  expect(both).toBeLessThan(smoothed);
});

test("a fusion of many frames in a band keeps only some of them", () =>
  expect(rowsThatFit(stack(20, 9000, 6000), by("fusion"), 1e9)).toBe(
    rowsThatFit(stack(4, 9000, 6000), by("fusion"), 1e9),
  ));

test("radiance in bands has the bytes of the whole", async () => {
  const W = 240;
  const H = 400;
  const scene = simulatedRoom(W, H, 3);
  const shots = [0, 2, -2].map(
    (ev, i) =>
      takeFrame(scene, {
        width: W,
        height: H,
        ev,
        toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
        seed: 70 + i,
        response: srgbResponse,
        gain: 15000,
        read: 8e-4,
      }) as Uint8Array,
  );
  const { pool, frames } = inProcess(
    shots.map((samples, i) => ({
      name: `f${i}.png`,
      samples,
      width: W,
      height: H,
      exif: { exposureTime: 0.01 * 4 ** [0, 1, -1][i]! },
    })),
  );
  const aligned = {
    reference: 0,
    frames: [0, 2, -2].map((ev, i) => ({
      fromReference: [1, 0, i * 1.3, 0, 1, -i * 0.7, 0, 0, 1],
      ev,
      gainEv: 0,
      residualPx: 0,
      movedPx: 0,
      used: true,
    })),
  } as unknown as Aligned;
  const input = { frames, aligned, reference: 0, downscale: 1, patches: [] };
  const watch = { progress: () => undefined };
  const planes = (acc: Accumulator): Promise<Uint8Array[]> =>
    Promise.all(
      [0, 1, 2].map((c) => pool.read(acc.ptr + c * acc.planeBytes, acc.width * acc.height * 4)),
    );
  const whole = await mergeFrames(pool, input, watch);
  const all = await planes(whole);
  whole.release();
  const { bands, release } = await mergeInBands(pool, input, by("radiance"), 128, undefined, watch);
  expect(bands.map((b) => b.y0)).toEqual([0, 128, 256, 384]);
  for (const band of bands) {
    const { rows, done } = await band.take();
    (await planes(rows)).forEach((own, c) =>
      expect(
        Buffer.compare(
          Buffer.from(own),
          Buffer.from(all[c]!.subarray(band.y0 * W * 4, band.y1 * W * 4)),
        ),
      ).toBe(0),
    );
    done();
  }
  release();
  expect(pool.arena.inUse).toBe(0);
});
