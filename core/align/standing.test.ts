import { Heap } from "../../kernels/heap";
import { evenlyLit, stillOffset } from "./standing";
import type { TiledLight } from "./unevenLight";

test("what moved has no say in how two images were exposed, however much of the picture it is", () => {
  const w = 640;
  const h = 400;
  const n = w * h;
  const heap = Heap.local(n * 40);
  const level = (of: (x: number, y: number) => number) => ({
    w,
    h,
    log: heap.put(Float32Array.from({ length: n }, (_, i) => of(i % w, Math.floor(i / w)))),
    confidence: heap.put(new Float32Array(n).fill(0.9)),
  });
  const scene = (x: number, y: number): number => -2 + Math.sin(x / 37) + Math.cos(y / 23);
  const move = [1, 0, 6, 0, 1, -4, 0, 0, 1];
  // the image lies 6 px to the right and 4 up, is brighter by 0.3 EV, and glitters in its lower
  // third
  const template = level(scene);
  const image = level((x, y) => scene(x - 6, y + 4) + 0.3 + (y > 260 ? 0.12 : 0));
  const still = Uint8Array.from({ length: n / 4 }, (_, i) =>
    Math.floor(i / (w / 2)) > 130 ? 0 : 255,
  );
  expect(stillOffset(heap, template, image, { transform: move, offset: -0.33 }, still)).toBeCloseTo(
    -0.3,
    3,
  );
  expect(
    stillOffset(
      heap,
      template,
      image,
      { transform: move, offset: -0.33 },
      new Uint8Array(n / 4).fill(255),
    ),
  ).toBeLessThan(-0.32);
  // too little that stands: what was found stays
  expect(
    stillOffset(heap, template, image, { transform: move, offset: -0.33 }, new Uint8Array(n / 4)),
  ).toBe(-0.33);
});

/**
 * The light of 30 x 20 tiles of 32 px by a function of their place, known by so many confidences
 * each.
 */
function tiled(ev: (x: number, y: number) => number, confidences = 40): TiledLight {
  const across = 30;
  const down = 20;
  const places = Array.from({ length: across * down }, (_, k): [number, number] => [
    k % across,
    Math.floor(k / across),
  ]);
  return {
    side: 32,
    across,
    down,
    ev: Float32Array.from(places, ([x, y]) => ev(x, y)),
    confidences: Float32Array.from(places, () => confidences),
  };
}

test("where a cloud changed the light nothing has a say, its even middle neither; the ground keeps its own", () => {
  const confidences = evenlyLit(
    tiled((x, y) => (y < 8 ? 0.09 * Math.sin(x * 0.9 + y) : 0.004 * Math.sin(x * 7 + y))),
    960,
    640,
  )!;
  const at = (x: number, y: number): number => confidences[(y >> 1) * 480 + (x >> 1)]!;
  for (let x = 40; x < 960; x += 80) {
    expect(at(x, 100)).toBe(0);
    expect(at(x, 500)).toBe(255);
  }
});

test.each([
  ["even light", () => 0.004],
  [
    "a tile here and there, as of a thing that passed",
    (x: number, y: number) => (x === 11 && y === 7 ? 0.3 : 0),
  ],
  [
    "light that differs everywhere: the exposures' tones, not the light on things",
    (x: number) => 0.1 * Math.sin(x),
  ],
])("%s is no reason to leave anything out", (_what, ev) => {
  expect(evenlyLit(tiled(ev), 960, 640)).toBeUndefined();
});

test("few weights tell no small change", () => {
  expect(
    evenlyLit(
      tiled((_x, y) => (y < 8 ? 0.09 : 0), 1),
      960,
      640,
    ),
  ).toBeUndefined();
});
