import { Heap } from "../../kernels/heap";
import { paintMap, scaleColour, sourceShares, type MapInput } from "./maps";

const W = 24;
const H = 16;
const n = W * H;
const heap = Heap.local(1e6);
const planeBytes = n * 4 + 64;
const scene = { ptr: heap.alloc(planeBytes * 4), planeBytes, width: W, height: H };
const sources = heap.alloc(n);
const region = { x: 0, y: 0, width: W, height: H };
/** Light that grows to the right, weights that grow downwards. */
for (let c = 0; c < 4; c++)
  heap.f32(scene.ptr + c * planeBytes, n).forEach((_, i, p) => {
    p[i] = c < 3 ? 0.01 * (1 + (i % W)) : 1e4 * (1 + Math.floor(i / W));
  });
heap.u8(sources, n).forEach((_, i, s) => {
  s[i] = i % W < 8 ? 1 : i % W < 20 ? 2 : 0;
});
const colours = [
  [10, 20, 30],
  [40, 50, 60],
];
const paint = (o: Partial<MapInput>): Uint8ClampedArray =>
  paintMap(heap, {
    kind: "sources",
    scene,
    sources,
    colours,
    maps: [],
    downscale: 1,
    thin: 1,
    region,
    ...o,
  });
const at = (map: Uint8ClampedArray, x: number, y: number, w = W): number[] => [
  ...map.slice((y * w + x) * 4, (y * w + x) * 4 + 4),
];
const light = ([r, g, b]: readonly number[]): number => 0.3 * r! + 0.6 * g! + 0.1 * b!;

test("the scale grows lighter at every step, and stops at its ends", () => {
  const steps = Array.from({ length: 21 }, (_, i) => light(scaleColour(i / 20)));
  steps.slice(1).forEach((v, i) => expect(v).toBeGreaterThan(steps[i]!));
  expect(scaleColour(-3)).toEqual(scaleColour(0));
  expect(light(scaleColour(9))).toBeCloseTo(light(scaleColour(1)), -1);
});

test("each px has its frame's colour, and what no frame gave is seen", () => {
  const map = paint({});
  expect(at(map, 0, 3).slice(0, 3)).toEqual(colours[0]);
  expect(at(map, 12, 3).slice(0, 3)).toEqual(colours[1]);
  expect(at(map, 22, 3).slice(0, 3)).not.toEqual([0, 0, 0]);
  expect(sourceShares(heap, sources, n, 2)).toEqual([8 / 24, 12 / 24, 4 / 24]);
});

test("seams are lines where one frame meets another, as thin on the screen whatever the zoom, and none at the picture's end", () => {
  const wide = (thin: number): number => {
    const map = paint({ kind: "seams", thin });
    return Array.from({ length: W }, (_, x) => at(map, x, 5)[3]!).filter((a) => a > 0).length;
  };
  expect(at(paint({ kind: "seams" }), 8, 5)).toEqual([242, 242, 242, 255]);
  expect([wide(0.1), wide(1), wide(2)]).toEqual([4, 4, 8]);
  expect(at(paint({ kind: "seams", thin: 3 }), 21, 5)[3]).toBe(0);
  expect(at(paint({ kind: "seams", thin: 1 }), 1, 5)[3]).toBe(0);
});

test("where the depth is a guess its map is striped, as wide on the screen whatever the zoom", () => {
  const known = { width: 2, height: 1, known: Float32Array.of(0.9, 0.1) };
  const dark = (thin: number, x0: number): number => {
    const map = paint({ known, thin });
    return Array.from({ length: 12 }, (_, x) => at(map, x0 + x, 5)[0]!).filter((r) => r === 13)
      .length;
  };
  expect([dark(1, 0), dark(2, 0)]).toEqual([0, 0]);
  expect([dark(1, 12), dark(2, 12)]).toEqual([4, 4]);
});

test("a part of the scene is painted as in the whole", () => {
  const whole = paint({});
  const part = paint({ region: { x: 6, y: 4, width: 10, height: 5 } });
  for (let y = 0; y < 5; y++)
    for (let x = 0; x < 10; x++) expect(at(part, x, y, 10)).toEqual(at(whole, x + 6, y + 4));
});

test("less noise is lighter: with more light, and with more weight", () => {
  const map = paint({ kind: "noise" });
  expect(light(at(map, 20, 8))).toBeGreaterThan(light(at(map, 1, 8)));
  expect(light(at(map, 4, 15))).toBeGreaterThan(light(at(map, 4, 0)));
});

test("what moved in any frame is striped, what stood is clear; disagreement is on the scale", () => {
  const grid = (value: number, elsewhere: number) => ({
    width: 6,
    height: 4,
    scale: 8,
    confidences: Uint8Array.from({ length: 24 }, (_, i) => (i === 7 ? value : elsewhere)),
  });
  const maps = [{}, { ghosts: grid(0, 255), differs: grid(128, 0) }] as unknown as MapInput["maps"];
  const moving = paint({ kind: "moving", maps, downscale: 2 });
  const alphas = new Set<number>();
  for (let y = 4; y < 8; y++) for (let x = 4; x < 8; x++) alphas.add(at(moving, x, y)[3]!);
  expect(alphas.size).toBe(2);
  expect(Math.min(...alphas)).toBeGreaterThan(0);
  expect(at(moving, 14, 10)[3]).toBe(0);
  const differing = paint({ kind: "disagreement", maps, downscale: 2 });
  expect(light(at(differing, 5, 5))).toBeGreaterThan(light(at(differing, 14, 10)) + 50);
});
