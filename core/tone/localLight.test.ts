import { Heap } from "../../kernels/heap";
import { localGains, type LocalWhite } from "../colour/localWhite";
import { renderStrip, type RenderSettings } from "./renderStrip";

const heap = Heap.local(6e6);
const W = 120;
const H = 80;
const n = W * H;
const planeBytes = n * 4 + 64;
const scene = { ptr: heap.alloc(planeBytes * 3), planeBytes, width: W, height: H };
for (let c = 0; c < 3; c++) heap.f32(scene.ptr + c * planeBytes, n).fill(0.2);
const flat = heap.put(new Float32Array(16));
const field = {
  width: 2,
  height: 2,
  slopes: flat,
  offsets: flat,
  shoulderStart: 20,
  white: 1,
  floor: 0,
};
const plain: RenderSettings = {
  gains: [1, 1, 1],
  exposure: 0,
  space: "linear",
  linear: true,
};
const whole = { temperature: 6504, tint: 0 };
const part = (more: Partial<LocalWhite>): LocalWhite => ({
  id: "a",
  on: true,
  shape: "outline",
  points: [
    [0.25, 0.25],
    [0.75, 0.25],
    [0.75, 0.75],
    [0.25, 0.75],
  ],
  radius: 0,
  soft: 0,
  temperature: 3200,
  tint: 0,
  ...more,
});
/** The whole picture, or a part of it rendered by itself. */
function rendered(
  local: LocalWhite[],
  region = { x: 0, y: 0, width: W, height: H },
  y0 = 0,
  y1 = region.height,
): Float32Array {
  const dst = heap.alloc(region.width * region.height * 12);
  renderStrip(
    heap,
    scene,
    field,
    { ...plain, local: localGains(local, whole) },
    region,
    "rgb32f",
    dst,
    y0,
    y1,
  );
  return heap.f32(dst, region.width * region.height * 3).slice();
}
const at = (p: Float32Array, x: number, y: number, w = W): number[] => [
  ...p.subarray((y * w + x) * 3, (y * w + x) * 3 + 3),
];

test("a part has its own white, the rest is left alone", () => {
  const { gains } = localGains([part({})], whole)[0]!;
  const p = rendered([part({})]);
  at(p, 60, 40).forEach((v, c) => expect(v).toBeCloseTo(0.2 * gains[c]!, 5));
  expect(at(p, 60, 40)[0]).toBeLessThan(at(p, 60, 40)[2]!);
  at(p, 10, 10).forEach((v) => expect(v).toBeCloseTo(0.2, 6));
  expect([...rendered([part({ on: false })])].every((v) => Math.abs(v - 0.2) < 1e-6)).toBe(true);
});

test("a white like the whole picture's changes nothing, wherever it lies", () => {
  for (const shape of ["outline", "brush", "gradient"] as const)
    expect(
      [...rendered([part({ shape, temperature: 6504, radius: 0.1, soft: 0.05 })])].every(
        (v) => Math.abs(v - 0.2) < 1e-6,
      ),
    ).toBe(true);
});

test("a gradient fades from its first point to its last, and is full before and gone behind", () => {
  const p = rendered([
    part({
      shape: "gradient",
      points: [
        [0.25, 0.5],
        [0.75, 0.5],
      ],
    }),
  ]);
  const red = (x: number): number => at(p, x, 40)[0]!;
  const { gains } = localGains([part({})], whole)[0]!;
  expect(red(5)).toBeCloseTo(0.2 * gains[0], 4);
  expect(red(115)).toBeCloseTo(0.2, 4);
  expect(red(60)).toBeCloseTo((0.2 * (1 + gains[0])) / 2, 2);
  for (let x = 1; x < W; x++) expect(red(x)).toBeGreaterThanOrEqual(red(x - 1) - 1e-6);
});

test("a region, and strips of it, are the same pixels as in the whole picture", () => {
  const local = [
    part({ soft: 0.03 }),
    part({
      id: "b",
      shape: "brush",
      points: [
        [0.1, 0.1],
        [0.9, 0.8],
      ],
      radius: 0.05,
      temperature: 9000,
      tint: 20,
    }),
  ];
  const p = rendered(local);
  const region = { x: 33, y: 21, width: 60, height: 40 };
  const cut = rendered(local, region);
  for (let y = 0; y < 40; y++)
    for (let x = 0; x < 60; x++)
      at(cut, x, y, 60).forEach((v, c) => expect(v).toBeCloseTo(at(p, x + 33, y + 21)[c]!, 5));
});

test("later parts lie over earlier ones by their factors, and the soft border has no step", () => {
  const p = rendered([part({ soft: 0.1 })]);
  let step = 0;
  for (let x = 1; x < W; x++)
    step = Math.max(step, Math.abs(at(p, x, 40)[2]! - at(p, x - 1, 40)[2]!));
  expect(step).toBeLessThan(0.03);
  const both = rendered([part({}), part({ id: "b" })]);
  const { gains } = localGains([part({})], whole)[0]!;
  at(both, 60, 40).forEach((v, c) => expect(v).toBeCloseTo(0.2 * gains[c]! ** 2, 4));
});
