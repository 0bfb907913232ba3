import { heap, noise, worst } from "../tests/forKernels";
import * as twin from "./twins";

describe.each([
  [64, 48],
  [61, 47],
  [5, 9],
  [130, 3],
])("pyramid of %i x %i", (w, h) => {
  const src = noise(w * h, -5, 5);
  const W = (w + 1) >> 1;
  const H = (h + 1) >> 1;
  test("down", () => {
    const mark = heap.mark();
    const s = heap.put(src);
    const d = heap.alloc(W * H * 4 + 16);
    const row = heap.alloc(w * 4 + 16);
    for (const [a, b] of [
      [0, H >> 1],
      [H >> 1, H],
    ] as const)
      heap.k.pyrDown(s, w, h, d, row, a, b);
    expect(worst(heap.f32(d, W * H), twin.pyrDown(src, w, h))).toBeLessThan(1e-5);
    heap.release(mark);
  });
  test("up, and what was taken apart comes together again", () => {
    const mark = heap.mark();
    const s = heap.put(src);
    const c = heap.alloc(W * H * 4 + 16);
    const d = heap.alloc(w * h * 4 + 16);
    const row = heap.alloc(w * 4 + 16);
    heap.k.pyrDown(s, w, h, c, row, 0, H);
    for (const [a, b] of [
      [0, h >> 1],
      [h >> 1, h],
    ] as const)
      heap.k.pyrUp(c, w, h, s, d, -1, row, a, b);
    expect(worst(heap.f32(d, w * h), twin.pyrUp(heap.f32(c, W * H), w, h, src, -1))).toBeLessThan(
      1e-5,
    );
    heap.k.pyrUp(c, w, h, d, d, 1, row, 0, h);
    expect(worst(heap.f32(d, w * h), src)).toBeLessThan(1e-5);
    heap.release(mark);
  });
});
