import { finishOf, finishScene, rendered } from "../../tests/finishScene";
import { random } from "../math/random";
import { REST, type Adjustments } from "./adjustments";
import { isAtRest } from "./finish";

const W = 96;
const H = 64;

/** Adjustments that change colour, and none of which may tint what is grey. */
const COLOURLESS: readonly Partial<Adjustments>[] = [
  { saturation: 0.8 },
  { saturation: -0.7 },
  { dullColours: 1 },
  { dullColours: -0.6 },
  { hues: [{ hue: 40, reach: 60, turn: 30, saturation: 0.8, lightness: 0.5 }] },
  { monochrome: 0.7, monochromeWeights: [1, -1, 0.5, 0, -0.5, 1] },
  { purpleFringe: 1, greenFringe: 1 },
  { exposure: 1.3 },
  { contrast: 0.7, pivot: 1 },
  {
    curve: [
      [0.3, 0.2],
      [0.7, 0.85],
    ],
  },
  { vignette: -2 },
  { slope: 1.5, slopeDirection: 30 },
  { fine: 1, small: 1 },
  { sharpening: 1 },
  { noiseReduction: 1, colourNoise: 1 },
];

test("at rest nothing is changed, whatever only says how others work", () => {
  expect(isAtRest(REST)).toBe(true);
  expect(isAtRest({ ...REST, pivot: 1, glowRadius: 0.1, vignetteX: 0.2, darksHue: 9 })).toBe(true);
  for (const set of COLOURLESS) expect(isAtRest({ ...REST, ...set })).toBe(false);
});

test.each(COLOURLESS.map((set) => [JSON.stringify(set), set] as const))(
  "grey stays grey: %s",
  (_, set) => {
    const scene = finishScene(W, H, (x, y) => {
      const grey = 2 ** (-10 + (10 * x) / W) * (y % 9 === 0 ? 0.7 : 1);
      return [grey, grey, grey];
    });
    const out = rendered(scene, finishOf(set));
    let worst = 0;
    for (let i = 0; i < out.length; i += 3)
      worst = Math.max(worst, Math.abs(out[i]! - out[i + 1]!), Math.abs(out[i + 1]! - out[i + 2]!));
    // two of 65535
    expect(worst).toBeLessThan(3.1e-5);
  },
);

test.each([
  { exposure: -1 },
  { contrast: 0.9 },
  { contrast: -0.8, pivot: -2 },
  {
    curve: [
      [0.2, 0.05],
      [0.5, 0.6],
      [0.8, 0.95],
    ],
  },
  { curveRed: [[0.4, 0.6]] },
  { saturation: 0.5 },
  { darksTint: 1, lightsTint: 1 },
  { monochrome: 1 },
] satisfies Partial<Adjustments>[])("what is darker stays darker: %j", (set) => {
  const scene = finishScene(W, 1, (x) => {
    const grey = 2 ** (-9 + (9 * x) / W);
    return [grey, grey, grey];
  });
  const out = rendered(scene, finishOf(set));
  for (let x = 1; x < W; x++) {
    const luma = (i: number): number =>
      0.2126 * out[3 * i]! + 0.7152 * out[3 * i + 1]! + 0.0722 * out[3 * i + 2]!;
    expect(luma(x)).toBeGreaterThanOrEqual(luma(x - 1) - 1e-6);
  }
});

test("zero, tiny, negative, infinite and missing light come out finite, with all of it on", () => {
  const odd = [0, -1, 1e-30, NaN, Infinity, -Infinity, 1e30, 0.2, 4];
  const rnd = random(3);
  const scene = finishScene(W, H, () => [
    odd[Math.floor(rnd() * odd.length)]!,
    odd[Math.floor(rnd() * odd.length)]!,
    odd[Math.floor(rnd() * odd.length)]!,
  ]);
  const all = Object.assign({}, ...COLOURLESS, {
    temperature: 3000,
    tint: 40,
    haze: 0.7,
    darksTint: 1,
  }) as Partial<Adjustments>;
  const lines = { width: 1, height: 1, slopes: scene.field.slopes, offsets: scene.field.offsets };
  const finish = finishOf(all, [], { air: { ...lines, colour: [1, 1, 1] } });
  for (const v of rendered(scene, finish)) expect(v >= 0 && v <= 1).toBe(true);
});

test("saturation keeps hue and lightness as they look, and stays within what can be shown", () => {
  const scene = finishScene(3, 1, (x) =>
    x === 0 ? [0.3, 0.2, 0.15] : x === 1 ? [0.1, 0.2, 0.25] : [0.2, 0.22, 0.1],
  );
  const before = rendered(scene, undefined);
  const after = rendered(scene, finishOf({ saturation: 0.4 }));
  const saturation = (out: Float32Array, i: number): number => {
    const rgb = [out[3 * i]!, out[3 * i + 1]!, out[3 * i + 2]!];
    return (Math.max(...rgb) - Math.min(...rgb)) / Math.max(...rgb);
  };
  for (let i = 0; i < 3; i++) expect(saturation(after, i)).toBeGreaterThan(saturation(before, i));
  const most = rendered(scene, finishOf({ saturation: 1, dullColours: 1 }));
  for (const v of most) expect(v >= 0 && v <= 1).toBe(true);
});
