import { Heap } from "../../kernels/heap";
import { framed } from "./framed";
import { outputSharpening, sharpenOutput, type OutputSharpening } from "./sharpenOutput";

const W = 160;
const H = 60;

/** A grey picture after sharpening, 16 bit. */
function sharpened(
  at: (x: number, y: number) => number,
  sharpening: OutputSharpening,
  strips: readonly [number, number][] = [[0, H]],
): Uint16Array {
  const heap = Heap.local(8 << 20);
  const [from, to] = [heap.alloc(W * H * 6), heap.alloc(W * H * 6)];
  const pixels = heap.u16(from, W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      pixels.fill(Math.round(at(x, y) * 65535), (y * W + x) * 3, (y * W + x) * 3 + 3);
  for (const [y0, y1] of strips)
    sharpenOutput(
      heap,
      { ptr: from, width: W, height: H },
      { ptr: to, width: W, height: H },
      "rgb16",
      sharpening,
      y0,
      y1,
    );
  return heap.u16(to, W * H * 3).slice();
}
const screen = outputSharpening({ medium: "screen", ppi: 110, distance: 50 }, 1);
const row = (pixels: Uint16Array, y = H >> 1): number[] =>
  Array.from({ length: W }, (_, x) => pixels[(y * W + x) * 3]! / 65535);

test("what is flat, and what is only grain, stays as it is", () => {
  const flat = row(sharpened(() => 0.4, screen));
  for (const value of flat) expect(value).toBeCloseTo(0.4, 4);
  const grain = row(sharpened((x, y) => 0.4 + 0.004 * ((x + y) & 1 ? 1 : -1), screen));
  for (const value of grain) expect(Math.abs(value - 0.4)).toBeLessThan(0.0041);
});

test("an edge gets steeper without a rim", () => {
  const edge = (x: number): number => 0.2 + 0.6 / (1 + Math.exp(-(x - W / 2) / 1.2));
  const before = Array.from({ length: W }, (_, x) => edge(x));
  const after = row(sharpened(edge, { sigma: 1, amount: 2 }));
  const steepest = (line: number[]): number =>
    Math.max(...line.slice(1).map((value, i) => value - line[i]!));
  expect(steepest(after)).toBeGreaterThan(1.1 * steepest(before));
  expect(Math.max(...after)).toBeLessThan(0.8 + 0.02);
  expect(Math.min(...after)).toBeGreaterThan(0.2 - 0.02);
});

test("the contrast that a medium takes from detail is given back", () => {
  const viewing = { medium: "matte", ppi: 300, distance: 40 } as const;
  const { sigma, amount } = outputSharpening(viewing, 1);
  const cycles = 8 / ((300 / 2.54) * 40 * Math.tan(Math.PI / 180));
  const spread = Math.hypot((0.055 * 300) / 25.4, 0.35);
  const left = Math.exp(-2 * Math.PI ** 2 * cycles ** 2 * spread ** 2);
  const gain = 1 + amount * (1 - Math.exp(-2 * Math.PI ** 2 * cycles ** 2 * sigma ** 2));
  expect(left * gain).toBeCloseTo(1, 2);
  // matte paper takes more than glossy, and nothing is asked for at no strength
  expect(amount).toBeGreaterThan(0);
  expect(outputSharpening(viewing, 0).amount).toBe(0);
  expect(outputSharpening({ ...viewing, medium: "glossy" }, 1).sigma).toBeLessThan(sigma);
});

test("bytes do not depend on how rows are spread", () => {
  const at = (x: number, y: number): number => 0.5 + 0.3 * Math.sin(x * 0.9) * Math.cos(y * 0.7);
  const strips: [number, number][] = [
    [0, 7],
    [7, 20],
    [20, 21],
    [21, H],
  ];
  expect(sharpened(at, { sigma: 1.4, amount: 1 }, strips)).toEqual(
    sharpened(at, { sigma: 1.4, amount: 1 }),
  );
});

test("a border lies round the picture, which stays as it is", () => {
  const heap = Heap.local(1 << 20);
  const [from, to] = [heap.alloc(4 * 3 * 3), heap.alloc(8 * 7 * 3)];
  heap.u8(from, 36).fill(90);
  framed(heap, {
    from: { ptr: from, width: 4, height: 3 },
    to: { ptr: to, width: 8, height: 7 },
    kind: "rgb8",
    tone: 1,
  });
  const out = heap.u8(to, 8 * 7 * 3);
  for (let y = 0; y < 7; y++)
    for (let x = 0; x < 8; x++) {
      const isInside = x >= 2 && x < 6 && y >= 2 && y < 5;
      expect(out[(y * 8 + x) * 3]).toBe(isInside ? 90 : 255);
    }
});
