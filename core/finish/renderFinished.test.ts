import { finishOf, finishScene, rendered } from "../../tests/finishScene";
import { random } from "../math/random";

const ALL = {
  exposure: 0.4,
  fine: 0.8,
  small: 0.5,
  sharpening: 0.8,
  noiseReduction: 0.7,
  colourNoise: 1,
  purpleFringe: 0.5,
  saturation: 0.3,
  vignette: -0.8,
} as const;

/** A scene with texture, an edge and noise. */
function texture(width: number, height: number) {
  const rnd = random(11);
  return finishScene(width, height, (x, y) => {
    const base = x + y > (width + height) / 2 ? 0.5 : 0.05;
    const grain = 1 + 0.2 * Math.sin(x / 3) * Math.cos(y / 4);
    return [base * grain * (1 + 0.1 * rnd()), base * grain, base * grain * (0.8 + 0.1 * rnd())];
  });
}

test("strips of any height have the bytes of the whole", () => {
  const scene = texture(160, 700);
  const finish = finishOf(ALL);
  const whole = rendered(scene, finish);
  for (const [y0, y1] of [
    [0, 256],
    [256, 700],
    [300, 301],
    [100, 600],
  ] as const) {
    const strip = rendered(scene, finish, false, [y0, y1]).subarray(y0 * 480, y1 * 480);
    const same = whole.slice(y0 * 480, y1 * 480);
    expect(Buffer.compare(Buffer.from(strip.slice().buffer), Buffer.from(same.buffer))).toBe(0);
  }
});

test("two parts of half the amount do what one does, where it only adds light", () => {
  const scene = texture(64, 48);
  const one = rendered(scene, finishOf({ exposure: 1 }), true);
  const halves = rendered(
    scene,
    {
      ...finishOf({ exposure: 1 }),
      parts: [0.5, 0.5].map((amount) => ({ ...finishOf({ exposure: 1 }).parts[0]!, amount })),
    },
    true,
  );
  for (let i = 0; i < one.length; i++) expect(halves[i]! / one[i]!).toBeCloseTo(1, 5);
});

test.each([1, 2, 4, 6])("an edge of %f EV has no halo, with every scale lifted", (ev) => {
  const W = 200;
  const scene = finishScene(W, 40, (x) => {
    const light = x < W / 2 ? 0.4 : 0.4 * 2 ** -ev;
    return [light, light, light];
  });
  const flat = rendered(scene, undefined, true);
  const out = rendered(scene, finishOf({ fine: 1, small: 1, sharpening: 1 }), true);
  const row = 20 * W * 3;
  for (let x = 0; x < W; x++) {
    if (Math.abs(x - W / 2 + 0.5) <= 2) continue;
    const change = Math.abs(Math.log2(out[row + 3 * x]! / flat[row + 3 * x]!));
    expect(change).toBeLessThan(0.02 * ev);
  }
});

test("texture is lifted and softened, each scale its own", () => {
  const W = 240;
  const wave = (period: number) =>
    finishScene(W, 60, (x) => {
      const light = 0.2 * 2 ** (0.1 * Math.sin((2 * Math.PI * x) / period));
      return [light, light, light];
    });
  const contrast = (period: number, set: object): number => {
    const out = rendered(wave(period), finishOf(set), true);
    let sum = 0;
    for (let x = 40; x < W - 40; x++) sum += Math.log2(out[(30 * W + x) * 3]! / 0.2) ** 2;
    return Math.sqrt(sum);
  };
  for (const [key, own, other] of [
    ["fine", 4, 40],
    ["small", 14, 4],
  ] as const) {
    const lifted = contrast(own, { [key]: 1 }) / contrast(own, { exposure: 1e-9 });
    const softened = contrast(own, { [key]: -1 }) / contrast(own, { exposure: 1e-9 });
    const untouched = contrast(other, { [key]: 1 }) / contrast(other, { exposure: 1e-9 });
    expect(lifted).toBeGreaterThan(1.2);
    expect(softened).toBeLessThan(0.9);
    expect(Math.abs(untouched - 1)).toBeLessThan((lifted - 1) / 2);
  }
});

test("haze laid on and taken off again is the scene, where there was air between", () => {
  const scene = finishScene(60, 40, (x, y) => {
    const t = 0.4;
    const own = 0.05 + 0.3 * ((x + y) % 7 === 0 ? 1 : 0.4);
    return [own * t + 0.9 * (1 - t), own * t + 0.9 * (1 - t), own * t + 0.9 * (1 - t)];
  });
  const at = scene.heap.put([0, -Math.log2(0.4)]);
  const air = {
    width: 1,
    height: 1,
    slopes: at,
    offsets: at + 4,
    colour: [0.9, 0.9, 0.9] as const,
  };
  const out = rendered(scene, finishOf({ haze: 1 }, [], { air }), true);
  for (let i = 0; i < 60 * 40; i++) {
    const own = 0.05 + 0.3 * (((i % 60) + Math.floor(i / 60)) % 7 === 0 ? 1 : 0.4);
    expect(out[3 * i]!).toBeCloseTo(own, 4);
  }
});

test("purple rims go at strong edges, and a purple thing elsewhere stays", () => {
  const W = 120;
  const purple = [0.25, 0.12, 0.4] as const;
  const scene = finishScene(W, 40, (x) => {
    if (x < 30) return purple;
    if (x < 60) return [0.01, 0.01, 0.01];
    return x < 63 ? purple : [0.9, 0.9, 0.9];
  });
  const before = rendered(scene, undefined);
  const out = rendered(scene, finishOf({ purpleFringe: 1 }));
  const colour = (pixels: Float32Array, x: number): number => {
    const i = (20 * W + x) * 3;
    return pixels[i + 2]! - pixels[i + 1]!;
  };
  expect(colour(out, 61)).toBeLessThan(0.35 * colour(before, 61));
  expect(colour(out, 10)).toBeCloseTo(colour(before, 10), 2);
});
