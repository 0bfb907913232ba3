import { heap, noise, worst } from "../tests/forKernels";

const N = 37;

test("light of EV, times a gain", () => {
  const mark = heap.mark();
  const log = noise(N, -14, 6);
  const to = heap.alloc((N + 4) * 4);
  heap.k.lightOf(heap.put(log), N, 0.5, to);
  const found = heap.f32(to, N);
  log.forEach((ev, i) => expect(Math.abs(found[i]! / (0.5 * 2 ** ev) - 1)).toBeLessThan(1e-4));
  heap.release(mark);
});

test("smoothing takes each sample by its weight, and repeats the edges", () => {
  const mark = heap.mark();
  const [w, h] = [19, 13];
  const plane = noise(w * h, 0, 4);
  const weights = noise(w * h, 0, 1).map((v) => (v < 0.4 ? 0 : v));
  const to = heap.alloc(w * h * 4 + 64);
  heap.k.smoothWeighted(heap.put(plane), heap.put(weights), w, h, heap.alloc((w + 12) * 8), to);
  const kernel = [1, 2, 3, 2, 1];
  const expected = plane.map((_, i) => {
    let sum = 0;
    let all = 0;
    for (let j = -2; j <= 2; j++)
      for (let k = -2; k <= 2; k++) {
        const y = Math.min(h - 1, Math.max(0, Math.floor(i / w) + j));
        const x = Math.min(w - 1, Math.max(0, (i % w) + k));
        const weight = kernel[j + 2]! * kernel[k + 2]! * weights[y * w + x]!;
        sum += weight * plane[y * w + x]!;
        all += weight;
      }
    return all > 0 ? sum / all : 0;
  });
  expect(worst(heap.f32(to, w * h), expected)).toBeLessThan(1e-4);
  heap.release(mark);
});

describe("confidences of a row from a coarse grid", () => {
  const CELLS = 12;
  const SCALE = 6;
  const full = new Uint8Array(CELLS).fill(255);

  /** The row of 50 px from px 4 on, and whether anything was written. */
  function rowOf(upper: Uint8Array, lower: Uint8Array, share: number) {
    const mark = heap.mark();
    const to = heap.alloc(60 * 4);
    heap.f32(to, 50).fill(-1);
    const written = heap.k.confidenceRow(
      heap.putBytes(upper),
      heap.putBytes(lower),
      CELLS,
      share,
      4,
      50,
      SCALE,
      to,
    );
    const row = heap.f32(to, 50).slice();
    heap.release(mark);
    return { written, row };
  }

  test("nothing is written where nothing moved", () => {
    const { written, row } = rowOf(full, full, 0.3);
    expect(written).toBe(0);
    expect(row.every((value) => value === -1)).toBe(true);
  });

  test("between cells it is bilinear", () => {
    const upper = full.slice();
    upper.set([0, 100, 30], 4);
    const lower = full.slice();
    lower.set([200, 0], 5);
    const { written, row } = rowOf(upper, lower, 0.25);
    expect(written).not.toBe(0);
    const expected = Float32Array.from({ length: 50 }, (_, i) => {
      const at = Math.min(CELLS - 1.001, Math.max(0, (4 + i + 0.5) / SCALE - 0.5));
      const cell = Math.floor(at);
      const along = (of: Uint8Array): number =>
        of[cell]! + (of[cell + 1]! - of[cell]!) * (at - cell);
      return (along(upper) * 0.75 + along(lower) * 0.25) / 255;
    });
    expect(worst(row, expected)).toBeLessThan(0.01);
  });
});
