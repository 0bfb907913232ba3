import { Heap } from "../../kernels/heap";
import { simulateBracket } from "../../simulate/bracket";
import { srgbResponse } from "../../simulate/camera";
import { random } from "../math/random";
import { simulatedRoom } from "../../simulate/room";
import { findDust } from "./findDust";
import type { DustSpot } from "./preparation";

const w = 720;
const h = 480;
const LUT = Float32Array.from({ length: 768 }, (_, i) => {
  const v = (i % 256) / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
});
/** Soft round shadows in the same place of every frame. */
function dusty(samples: Uint8Array, spots: readonly DustSpot[], depth: number): Uint8Array {
  const out = samples.slice();
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let lost = 0;
      for (const s of spots) {
        const d = Math.hypot(x + 0.5 - s.x * w, y + 0.5 - s.y * h) / (s.radius * w);
        if (d < 1) lost = Math.max(lost, depth * Math.min(1, 2.2 * (1 - d)));
      }
      if (lost)
        for (let c = 0; c < 3; c++) {
          const i = (y * w + x) * 3 + c;
          out[i] = Math.round(255 * srgbResponse(LUT[samples[i]!]! * (1 - lost)));
        }
    }
  return out;
}
/** Of so many rooms, a frame each. */
function found(seed: number, rooms: number, spots: readonly DustSpot[]): DustSpot[] {
  const heap = Heap.local(w * h * 80);
  return findDust(
    heap,
    Array.from({ length: rooms }, (_, k) => {
      const {
        frames: [f],
      } = simulateBracket(simulatedRoom(w + 120, h + 120, seed * 20 + k), {
        width: w,
        height: h,
        evs: [0],
        baseEv: 0,
        hand: 0.6,
        seed: seed + k,
        reference: -1,
      });
      const ptr = heap.alloc(w * h * 3 + 64);
      heap.u8(ptr, w * h * 3).set(dusty(f!.samples as Uint8Array, spots, 0.16));
      return { ptr, type: "u8" as const, width: w, height: h, lut: LUT };
    }),
  );
}
const near = (a: DustSpot, b: DustSpot): boolean =>
  Math.hypot((a.x - b.x) * w, (a.y - b.y) * h) < Math.max(3, a.radius * w);

test.each([[21, 12]])(
  "dust over a day of rooms (%i, %i of them) is found, and hardly anything else",
  (seed, rooms) => {
    const rnd = random(seed);
    const spots = Array.from({ length: 14 }, (): DustSpot => ({
      x: 0.05 + 0.9 * rnd(),
      y: 0.05 + 0.9 * rnd(),
      radius: (3 + 4 * rnd()) / w,
    }));
    const all = found(seed, rooms, spots);
    const clean = found(seed, rooms, []);
    const hits = spots.filter((s) => all.some((f) => near(f, s)));
    const wrong = all.filter((f) => !spots.some((s) => near(f, s)));
    process.stdout.write(
      `dust, day ${seed}: ${hits.length} of ${spots.length}, ${wrong.length} besides; without dust ${clean.length}\n`,
    );
    expect(hits.length).toBeGreaterThanOrEqual(9);
    expect(wrong.length).toBeLessThanOrEqual(2);
    expect(clean.length).toBeLessThanOrEqual(2);
    for (const f of all)
      expect(
        f.x > 0 && f.x < 1 && f.y > 0 && f.y < 1 && f.radius >= 0.0005 && f.radius <= 0.05,
      ).toBe(true);
  },
);
