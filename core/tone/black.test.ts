import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { OPERATORS } from "./operators/operators";
import { renderStrip, type PixelKind } from "./renderStrip";
import { toneField, toneFieldBytes, type ToneSettings } from "./toneField";
import { BASIS_PARTS, basisBytes, fillBlack, toneBasis } from "./toneBasis";
import { floorGrid, gridSize, reduceToGrid } from "./toneGrid";

const W = 480;
const H = 320;
const NOISE = 1e-4;
type Light = (x: number, y: number) => readonly [number, number, number];

/**
 * A scene of this light with what toning needs of it; the function tones it and looks at a pixel.
 * Floats are what a picture of 32 bit would hold.
 */
function analysed(
  light: Light,
  noise = NOISE,
): (settings: Partial<ToneSettings>, kind?: PixelKind) => (x: number, y: number) => number[] {
  const heap = Heap.local(48e6);
  const planeBytes = W * H * 4 + 64;
  const scene = { ptr: heap.alloc(planeBytes * 3), planeBytes, width: W, height: H };
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++)
      light(x, y).forEach((v, c) => {
        heap.f32(scene.ptr + c * planeBytes, W * H)[i] = v;
      });
  const size = gridSize(W, H);
  const cells = { ...size, ptr: heap.alloc(size.width * size.height * 4 + 16) };
  const basis = heap.alloc(basisBytes(size));
  reduceToGrid(heap, scene, cells, 0, size.height);
  const grid = { ...cells, floorEv: floorGrid(heap, cells, noise) };
  fillBlack(heap, grid, basis);
  for (let part = 0; part < BASIS_PARTS; part++) toneBasis(heap, grid, basis, part);
  return (settings, kind = "rgb32f") => {
    const mark = heap.mark();
    const field = toneField(
      heap,
      grid,
      basis,
      {
        operator: "local",
        strength: 0.7,
        detail: 0.15,
        lifts: [0, 0, 0, 0, 0],
        white: 0,
        black: 0,
        ...settings,
      },
      heap.alloc(toneFieldBytes(grid)),
    );
    const dst = heap.alloc(W * H * 12 + 64);
    renderStrip(
      heap,
      scene,
      field,
      {
        gains: [1, 1, 1],
        exposure: 0,
        space: "rec2020",
        linear: kind === "rgb32f",
      },
      { x: 0, y: 0, width: W, height: H },
      kind,
      dst,
      0,
      H,
    );
    const out =
      kind === "rgb32f" ? heap.f32(dst, W * H * 3).slice() : heap.u16(dst, W * H * 3).slice();
    heap.release(mark);
    return (x, y) => [...out.subarray((y * W + x) * 3, (y * W + x) * 3 + 3)];
  };
}

const shade = (x: number, y: number): boolean => x > 150 && x < 330 && y > 100 && y < 240;
const random1 = random(7);
const grain = Float32Array.from({ length: W * H }, () => random1());
/** A room lit over several stops, a window, and a deep shade in it of which every frame says 0. */
const room: Light = (x, y) => {
  if (shade(x, y)) return [0, 0, 0];
  const level =
    x > 400 && y < 120 ? 20 : 0.02 * 2 ** (5 * (x / W)) * (0.7 + 0.6 * grain[y * W + x]!);
  return [level, level * 0.9, level * 0.7];
};
const STRENGTHS: Partial<ToneSettings>[] = OPERATORS.flatMap((operator) =>
  [0, 0.3, 0.7, 1].flatMap((strength) =>
    [-1, 0.15, 1].map((detail) => ({ operator, strength, detail })),
  ),
);
const EXTREMES: Partial<ToneSettings>[] = [
  { lifts: [4, 2, 0, -2, -4] },
  { lifts: [-4, 4, -4, 4, -4] },
  { black: 3, white: -3 },
  { black: -3, white: 3, strength: 1 },
];

const odd = [1e-30, -1e-30, 1e-8, -0.01, NaN, -Infinity];
const steps = [0, 1e-7, 1e-6, 1e-5, 1e-4, 3e-4, 1e-3, 1e-2];
const grey = (v: number): [number, number, number] => [v, v, v];
const plainRoom = analysed(room);
const oddRoom = analysed((x, y) => {
  const o = odd[(x * 7 + y * 13) % 60];
  return o === undefined || !shade(x, y) ? room(x, y) : grey(o);
});
const steppedRoom = analysed((x, y) =>
  shade(x, y) ? grey(steps[((x - 151) >> 1) % 8]!) : room(x, y),
);

describe.each([...STRENGTHS, ...EXTREMES].map((s) => [JSON.stringify(s), s] as const))(
  "%s",
  (_, settings) => {
    test("black stays black, next to anything", () => {
      const at = plainRoom(settings);
      const lit: number[][] = [];
      for (let y = 102; y < 239; y += 3)
        for (let x = 152; x < 329; x += 3) if (at(x, y).some((v) => v !== 0)) lit.push([x, y]);
      expect(lit).toEqual([]);
    });

    test("samples that are tiny, negative, infinite or missing come out finite, and no brighter than what is round them", () => {
      const at = oddRoom(settings);
      let brightest = 0;
      let finite = true;
      for (let y = 0; y < H; y += 2)
        for (let x = 0; x < W; x += 2) {
          const rgb = at(x, y);
          finite &&= rgb.every(Number.isFinite);
          if (shade(x, y)) brightest = Math.max(brightest, ...rgb);
        }
      expect(finite).toBe(true);
      expect(brightest).toBeLessThan(1e-3);
    });

    test("what is darker stays darker: steps of light side by side, from black on", () => {
      const at = steppedRoom(settings);
      let least = Infinity;
      for (let y = 110; y < 230; y += 5)
        for (let x = 151; x < 311; x += 16) {
          const shown = steps.map((_s, i) => at(x + 2 * i, y)[1]!);
          for (let i = 1; i < shown.length; i++)
            least = Math.min(least, shown[i]! - shown[i - 1]! * 0.98);
        }
      // a step of 16 bit is 1.5e-5
      expect(least).toBeGreaterThan(-1e-6);
    });
  },
);

test("noise in black is not amplified, its colour least of all; what is above it is", () => {
  const speck = 3e-5;
  const at = analysed((x, y) =>
    shade(x, y) ? (((x >> 3) + (y >> 3)) % 2 ? [speck, 0, 0] : [0, 0, speck]) : room(x, y),
  )({});
  const dim = analysed((x, y) => (shade(x, y) ? grey(3e-3) : room(x, y)))({});
  let most = 0;
  for (let y = 110; y < 230; y += 7)
    for (let x = 160; x < 320; x += 7) most = Math.max(most, ...at(x, y).map(Math.abs));
  expect(most).toBeLessThan(2 * speck);
  expect(dim(240, 170)[1]!).toBeGreaterThan(6e-3);
});

test("how much of a picture is black does not say how bright the rest is", () => {
  const lit = analysed((x) => room(x, 20))({});
  const half = analysed((x, y) => (y > 160 ? grey(0) : room(x, 20)))({});
  for (let x = 40; x < 390; x += 50)
    expect(Math.abs(Math.log2(half(x, 60)[1]! / lit(x, 60)[1]!))).toBeLessThan(0.35);
});

test("a scene in floats may have any scale", () => {
  const at = analysed(
    (x, y) => room(x, y).map((v) => v * 2 ** -24) as [number, number, number],
    0,
  )({ operator: "base" });
  expect(at(240, 170)).toEqual([0, 0, 0]);
  expect(at(20, 20)[1]!).toBeLessThan(at(390, 20)[1]!);
});

test("a missing sample is black, in a file of whole numbers, too", () => {
  const at = analysed((x, y) => (x === 240 && y === 170 ? grey(NaN) : room(x, y)))(
    { operator: "plain" },
    "rgb16",
  );
  expect(at(240, 170)).toEqual([0, 0, 0]);
});
