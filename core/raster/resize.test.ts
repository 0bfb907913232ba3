import { Heap } from "../../kernels/heap";
import { resizePlane, tapsFor, type Filter } from "./resize";

const heap = Heap.local(4e6);
function resized(
  plane: Float32Array,
  w: number,
  h: number,
  W: number,
  H: number,
  filter: Filter,
  from = { x: 0, y: 0, width: w, height: h },
): Float32Array {
  const mark = heap.mark();
  const src = heap.put(plane);
  const dst = heap.alloc(W * H * 4 + 16);
  resizePlane(
    heap,
    src,
    w,
    tapsFor(w, from.x, from.width / W, W, filter),
    tapsFor(h, from.y, from.height / H, H, filter),
    dst,
    0,
    H,
  );
  const out = heap.f32(dst, W * H).slice();
  heap.release(mark);
  return out;
}
/** A picture of slow waves, known at every place. */
const wave = (x: number, y: number): number =>
  1 + 0.5 * Math.sin(x * 0.11 + 0.3) * Math.cos(y * 0.07);
const waves = (w: number, h: number, sx = 1, sy = 1, ox = 0, oy = 0): Float32Array =>
  Float32Array.from({ length: w * h }, (_, i) =>
    wave(ox + ((i % w) + 0.5) * sx, oy + (Math.floor(i / w) + 0.5) * sy),
  );
const worstInside = (
  a: Float32Array,
  b: Float32Array,
  w: number,
  h: number,
  rim: number,
): number => {
  let m = 0;
  for (let y = rim; y < h - rim; y++)
    for (let x = rim; x < w - rim; x++) m = Math.max(m, Math.abs(a[y * w + x]! - b[y * w + x]!));
  return m;
};

describe.each<[Filter, number, number, number]>([
  ["triangle", 61, 40, 8e-3],
  ["triangle", 150, 91, 3e-3],
  ["lanczos3", 61, 40, 2e-3],
  ["lanczos3", 200, 131, 2e-3],
  ["lanczos3", 97, 80, 2e-3],
])("%s to %i x %i", (filter, W, H, bound) => {
  test("keeps what is there in its place", () => {
    expect(
      worstInside(
        resized(waves(120, 90), 120, 90, W, H, filter),
        waves(W, H, 120 / W, 90 / H),
        W,
        H,
        6,
      ),
    ).toBeLessThan(bound);
  });
  test("keeps a flat picture flat to its borders", () => {
    for (const v of resized(new Float32Array(120 * 90).fill(0.7), 120, 90, W, H, filter))
      expect(v).toBeCloseTo(0.7, 5);
  });
});

test("a part lies where the whole has it", () => {
  const part = resized(waves(120, 90), 120, 90, 30, 20, "triangle", {
    x: 30,
    y: 20,
    width: 60,
    height: 40,
  });
  expect(worstInside(part, waves(30, 20, 2, 2, 30, 20), 30, 20, 0)).toBeLessThan(6e-3);
});

test("stripes too fine for the size become grey, not coarser stripes", () => {
  const fine = Float32Array.from({ length: 200 * 60 }, (_, i) => (i % 200) % 2);
  for (const filter of ["triangle", "lanczos3"] as const)
    for (const v of resized(fine, 200, 60, 73, 22, filter).subarray(73 * 4, 73 * 18))
      expect(Math.abs(v - 0.5)).toBeLessThan(0.1);
});

test("lines shorter than the filter", () => {
  expect(resized(Float32Array.of(1, 3), 2, 1, 1, 1, "lanczos3")[0]).toBeCloseTo(2, 5);
  for (const v of resized(Float32Array.of(5), 1, 1, 7, 3, "lanczos3")) expect(v).toBeCloseTo(5, 5);
});
