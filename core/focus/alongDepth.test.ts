import { Heap } from "../../kernels/heap";
import { pyramidShape } from "../raster/pyramid";
import { mixDepth, spreadPlane } from "./alongDepth";
import { FOCUS_LEVELS } from "./sharpest";

const W = 150;
const H = 92;
const n = W * H;

test.each([0, 1, 2, 3])(
  "a slope on level %i is the same slope at full size, whatever was in memory before",
  (level) => {
    const heap = Heap.local(8e6);
    const { w, h } = pyramidShape(W, H, FOCUS_LEVELS).levels[level]!;
    const by = 2 ** level;
    const slope = Float32Array.from(
      { length: w * h },
      (_, i) => 3 + 0.1 * by * (i % w) - 0.05 * by * Math.floor(i / w),
    );
    const from = heap.put(slope);
    const to = heap.alloc(n * 4 + 64);
    const mark = heap.mark();
    // what spreading works in is not clean
    for (const at of [to, heap.alloc(n * 4)]) heap.f32(at, n).fill(NaN);
    heap.release(mark);
    spreadPlane(heap, from, level, { width: W, height: H }, to);
    const out = heap.f32(to, n);
    const rim = 3 * by;
    let worst = 0;
    for (let y = rim; y < H - rim; y++)
      for (let x = rim; x < W - rim; x++)
        worst = Math.max(worst, Math.abs(out[y * W + x]! - (3 + 0.1 * x - 0.05 * y)));
    expect(worst).toBeLessThan(1e-3);
    expect(out.every((v) => Number.isFinite(v))).toBe(true);
  },
);

test("a picture along the depth is blended over the other by its trust, wholly where none is given, and not where it is made of no frame", () => {
  const heap = Heap.local(4e6);
  const w = 16;
  const h = 4;
  const count = w * h;
  const planeBytes = count * 4 + 64;
  const plane = (
    value: (c: number, i: number) => number,
  ): { ptr: number; planeBytes: number; width: number; height: number } => {
    const ptr = heap.alloc(planeBytes * 4);
    for (let c = 0; c < 4; c++)
      heap.f32(ptr + c * planeBytes, count).forEach((_, i, p) => {
        p[i] = value(c, i);
      });
    return { ptr, planeBytes, width: w, height: h };
  };
  // sums of two frames' weights, and nothing in the last row
  const sums = plane((c, i) => (i >= 48 ? 0 : c === 3 ? 2 : 2 * 0.8));
  const trust = heap.put(Float32Array.from({ length: count }, (_, i) => (i % w) / 15));
  for (const trusted of [trust, undefined]) {
    const acc = plane(() => 0.2);
    mixDepth(heap, acc, sums, trusted, 0, 2);
    mixDepth(heap, acc, sums, trusted, 2, h);
    for (let i = 0; i < count; i++)
      expect(heap.f32(acc.ptr, count)[i]).toBeCloseTo(
        i >= 48 ? 0.2 : 0.2 + 0.6 * (trusted === undefined ? 1 : (i % w) / 15),
        4,
      );
  }
});
