import { Heap } from "../../../kernels/heap";
import { exposedReader, colourReader, makeSmallFrame, type SmallFrame } from "./smallFrame";

const W = 1000;
const H = 500;

test.each(["u8", "f32"] as const)(
  "a frame of %s made small holds the mean light of each square, and says how many px that is",
  (type) => {
    const heap = Heap.local(16e6);
    const size = type === "u8" ? 1 : 4;
    const ptr = heap.alloc(W * H * 3 * size);
    const samples = heap.samples(ptr, type, W * H * 3);
    const lut =
      type === "u8"
        ? Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2)
        : new Float32Array(0);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        for (let c = 0; c < 3; c++)
          samples[(y * W + x) * 3 + c] = type === "u8" ? (x * 3 + y * 5 + c * 40) % 256 : x / W + c;
    const { width, height, rgb, scale } = makeSmallFrame(
      heap,
      { ptr, type, width: W, height: H, lut } as Parameters<typeof makeSmallFrame>[1],
      4,
    );
    const by = scale / 4;
    expect(Math.max(width, height)).toBeLessThanOrEqual(500);
    expect([width, height]).toEqual([Math.floor(W / by), Math.floor(H / by)]);
    for (const [x, y] of [
      [0, 0],
      [7, 3],
      [width - 1, height - 1],
    ] as const)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let v = 0; v < by; v++)
          for (let u = 0; u < by; u++) {
            const s = samples[((y * by + v) * W + x * by + u) * 3 + c]!;
            sum += type === "u8" ? (s / 255) ** 2 : s;
          }
        expect(rgb[(y * width + x) * 3 + c]).toBeCloseTo(sum / by ** 2, 5);
      }
  },
);

/** Even grey, but for a lamp, a black hole and an edge. */
const image: SmallFrame = (() => {
  const width = 40;
  const height = 30;
  const rgb = new Float32Array(width * height * 3).fill(0.3);
  const square = (x0: number, y0: number, v: number): void => {
    for (let y = y0; y < y0 + 6; y++)
      for (let x = x0; x < x0 + 6; x++) rgb.fill(v, (y * width + x) * 3, (y * width + x) * 3 + 3);
  };
  square(4, 4, 0.95);
  square(20, 4, 0.001);
  square(28, 18, 0.6);
  return { width, height, rgb, scale: 10 };
})();

test("a small frame is asked in px of the full size, and stays at the border beyond it", () => {
  const colourAt = colourReader([undefined, image]);
  expect(colourAt(1, 75, 75)[1]).toBeCloseTo(0.95);
  expect(colourAt(1, -50, 4000)[1]).toBeCloseTo(0.3);
  expect(colourAt(0, 75, 75)).toEqual([0, 0, 0]);
});

test("to compare light by is what is exposed well and even round about", () => {
  const lit = exposedReader([image]);
  expect(lit(0, 155, 225)![1]).toBeCloseTo(0.3);
  // inside a square, and beside its edge
  expect(lit(0, 305, 205)![1]).toBeCloseTo(0.6);
  expect(lit(0, 285, 205)).toBeUndefined();
  expect(lit(0, 75, 75)).toBeUndefined();
  expect(lit(0, 225, 75)).toBeUndefined();
});
