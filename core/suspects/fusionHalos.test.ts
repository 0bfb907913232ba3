import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { fusionHalos } from "./fusionHalos";

const W = 360;
const H = 240;
const ORDER = Array.from({ length: 20 }, (_, k) => 19 - k);

/**
 * A dark disc before a textured ground, far behind it, of which some px beside the disc are drawn
 * towards it.
 */
function found({
  halo,
  width = 8,
  texture = 0.08,
  behind = 15,
  seed = 1,
}: {
  halo: number;
  width?: number;
  texture?: number;
  behind?: number;
  seed?: number;
}) {
  const heap = Heap.local(16e6);
  const rnd = random(seed);
  const planeBytes = W * H * 4;
  const ptr = heap.alloc(planeBytes * 4);
  const sources = heap.alloc(W * H);
  const waves = Array.from({ length: 12 }, () => [rnd() * 0.5, rnd() * 0.5, rnd() * 7] as const);
  const planes = [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, W * H));
  const from = heap.u8(sources, W * H);
  for (let y = 0, k = 0; y < H; y++)
    for (let x = 0; x < W; x++, k++) {
      const off = Math.hypot(x - 180, y - 120) - 70;
      const ground =
        0.5 *
        (1 + (texture * waves.reduce((s, [u, v, p]) => s + Math.sin(u * x + v * y + p), 0)) / 2.4);
      const light = off < 0 ? 0.05 : ground * (1 - (off < width ? halo : 0));
      planes.forEach((p) => {
        p[k] = light;
      });
      from[k] = ORDER[off < 0 ? 2 : behind]! + 1;
    }
  return fusionHalos(heap, { ptr, planeBytes, width: W, height: H }, sources, ORDER, 2);
}

test("a ground drawn towards what stands before it is listed, round all of it and at full size", () => {
  const [worst, ...others] = found({ halo: 0.15 });
  expect(worst).toMatchObject({ kind: "halo" });
  const all = [worst!, ...others];
  const x0 = Math.min(...all.map((s) => s.x));
  const x1 = Math.max(...all.map((s) => s.x + s.width));
  const y0 = Math.min(...all.map((s) => s.y));
  const y1 = Math.max(...all.map((s) => s.y + s.height));
  expect(x0).toBeLessThanOrEqual(2 * (180 - 70));
  expect(x1).toBeGreaterThanOrEqual(2 * (180 + 70));
  expect(y0).toBeLessThanOrEqual(2 * (120 - 70));
  expect(y1).toBeGreaterThanOrEqual(2 * (120 + 70));
  expect(worst!.score).toBeGreaterThan(found({ halo: 0.08 })[0]?.score ?? 0);
});

test("a clean edge has none, on whatever ground", () => {
  for (let seed = 1; seed <= 12; seed++)
    expect(found({ halo: 0, texture: seed % 2 ? 0.08 : 0.25, seed })).toEqual([]);
});

test("nor is a border of two pixels one, nor what lies at one depth", () => {
  expect(found({ halo: 0.3, width: 2 })).toEqual([]);
  expect(found({ halo: 0.3, behind: 4 })).toEqual([]);
});
