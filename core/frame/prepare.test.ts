import { Heap } from "../../kernels/heap";
import { pose, takeFrame } from "../../simulate/camera";
import { normal, random } from "../math/random";
import { simulatedRoom } from "../../simulate/room";
import { healSpots } from "./healSpots";
import { sourceOf } from "./lens";
import { lensScratch, lensWarp } from "./lensWarp";
import { AS_TAKEN, preparationOf } from "./preparation";
import { noiseScratch, reduceNoise } from "./reduceNoise";
import { clamp } from "../math/clamp";

const W = 480;
const H = 320;
const scene = simulatedRoom(W + 160, H + 120, 21);
const toScene = pose(W, H, 0, 0, 0).map((v, i) => (i === 2 ? v + 80 : i === 5 ? v + 60 : v));
/** A frame as square roots of light in 16 bit. */
const shoot = (lens: { distortion?: number; vignetting?: number }, growth = 0): Uint16Array =>
  Uint16Array.from(
    takeFrame(scene, {
      width: W,
      height: H,
      ev: -5,
      toScene: growth
        ? [
            1 / growth,
            0,
            W / 2 + 80 - W / 2 / growth,
            0,
            1 / growth,
            H / 2 + 60 - H / 2 / growth,
            0,
            0,
            1,
          ]
        : toScene,
      seed: 1,
      gain: 1e9,
      read: 0,
      depth: 16,
      response: Math.sqrt,
      ...lens,
    }),
  );
function warped(samples: Uint16Array, lens: Partial<typeof AS_TAKEN>): Uint16Array {
  const heap = Heap.local(W * H * 12 + lensScratch(W) + (1 << 21));
  const from = heap.alloc(W * H * 6 + 64);
  const to = heap.alloc(W * H * 6 + 64);
  const roots = heap.alloc(65536 * 12);
  const table = heap.f32(roots, 65536 * 3);
  for (let i = 0; i < table.length; i++) table[i] = ((i % 65536) / 65535) ** 2;
  heap.u16(from, W * H * 3).set(samples);
  for (const [y0, y1] of [
    [0, 112],
    [112, H],
  ] as const)
    lensWarp(
      heap,
      { ...AS_TAKEN, ...lens },
      { width: W, height: H },
      { ptr: from, top: 0, rows: H },
      { ptr: to, top: 0, rows: H },
      roots,
      y0,
      y1,
    );
  return heap.u16(to, W * H * 3).slice();
}
/** RMS difference within a border, in 16-bit steps, of one channel or all. */
const apart = (a: ArrayLike<number>, b: ArrayLike<number>, channel?: number): number => {
  let s = 0;
  let n = 0;
  for (let y = 24; y < H - 24; y++)
    for (let x = 24; x < W - 24; x++)
      for (let c = 0; c < 3; c++)
        if (channel === undefined || c === channel) {
          s += (a[(y * W + x) * 3 + c]! - b[(y * W + x) * 3 + c]!) ** 2;
          n++;
        }
  return Math.sqrt(s / n);
};

test.each([0.12, -0.1])(
  "a lens that bends by %d is straightened, and no border is empty",
  (distortion) => {
    const bent = shoot({ distortion });
    const fit = sourceOf({ ...AS_TAKEN, distortion }, { width: W, height: H }, W, H / 2);
    const straight = warped(bent, { distortion });
    // the straightened frame is drawn together by some factor: the ideal frame is taken so, too
    const half = Math.hypot(W, H) / 2;
    const r2 = (W / 2 / half) ** 2;
    const scale = (r: { x: number }): number =>
      (((r.x - W / 2) / half) * (1 + distortion * ((r.x - W / 2) / half) ** 2)) / (W / 2 / half);
    expect(r2).toBeGreaterThan(0);
    const ideal = shoot({}, 1 / scale(fit));
    expect(apart(straight, ideal)).toBeLessThan(0.35 * apart(bent, ideal));
    for (const [x, y] of [
      [0, 0],
      [W, 0],
      [0, H / 2],
      [W / 2, H],
    ] as const) {
      const p = sourceOf({ ...AS_TAKEN, distortion }, { width: W, height: H }, x, y);
      expect(p.x).toBeGreaterThanOrEqual(-1e-6);
      expect(p.x).toBeLessThanOrEqual(W + 1e-6);
      expect(p.y).toBeGreaterThanOrEqual(-1e-6);
      expect(p.y).toBeLessThanOrEqual(H + 1e-6);
    }
  },
);

test("dark corners are lifted to what they were, and what was clipped stays clipped", () => {
  const dim = shoot({ vignetting: 0.35 });
  const plain = shoot({});
  expect(apart(warped(dim, { vignetting: 0.35 }), plain)).toBeLessThan(0.12 * apart(dim, plain));
  const white = new Uint16Array(W * H * 3).fill(65535);
  expect(new Set(warped(white, { distortion: 0.05, vignetting: 0.3 }))).toEqual(new Set([65535]));
});

test("coloured fringes: red that is drawn larger is brought to green's size", () => {
  // seen from nearer, so that edges are soft enough to tell parts of a pixel
  const plain = shoot({}, 3);
  const large = shoot({}, 3 * 1.002);
  const fringed = plain.slice();
  for (let i = 0; i < fringed.length; i += 3) fringed[i] = large[i]!;
  expect(apart(warped(fringed, { fringeRed: 20 }), plain, 0)).toBeLessThan(
    0.6 * apart(fringed, plain, 0),
  );
  expect(apart(warped(fringed, { fringeRed: 20 }), plain, 1)).toBeLessThan(1);
});

test("dust is healed into its surroundings, and nothing else is touched", () => {
  const rnd = random(3);
  const clean = Uint16Array.from({ length: W * H * 3 }, (_, i) => {
    const x = Math.floor(i / 3) % W;
    const y = Math.floor(i / 3 / W);
    return 20000 + 60 * y + 3000 * Math.sin(x / 7) + 300 * rnd();
  });
  const dusty = clean.slice();
  const spot = { x: 0.4, y: 0.5, radius: 9 / W };
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const d = Math.hypot(x + 0.5 - 0.4 * W, y + 0.5 - 0.5 * H);
      if (d < 7) for (let c = 0; c < 3; c++) dusty[(y * W + x) * 3 + c]! *= 0.6;
    }
  const healed = dusty.slice();
  healSpots(healed, W, H, [spot]);
  let inside = 0;
  let n = 0;
  let outside = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const e = Math.abs(healed[(y * W + x) * 3]! - clean[(y * W + x) * 3]!);
      if (Math.hypot(x + 0.5 - 0.4 * W, y + 0.5 - 0.5 * H) <= 9) {
        inside += e;
        n++;
      } else outside += e;
    }
  expect(outside).toBe(0);
  expect(inside / n).toBeLessThan(900);
  const corner = dusty.slice();
  expect(() =>
    healSpots(corner, W, H, [
      { x: 0, y: 1, radius: 0.05 },
      { x: 0.5, y: 0.5, radius: 0.0005 },
    ]),
  ).not.toThrow();
});

test("noise is smoothed and edges stay, the same for any cut into strips", () => {
  const clean = shoot({});
  const gauss = normal(random(8));
  const noisy = Uint16Array.from(clean, (v) => clamp(v + gauss() * 700, 0, 65535));
  const smoothed = (cuts: readonly (readonly [number, number])[]): Uint16Array => {
    const heap = Heap.local(W * H * 12 + noiseScratch(W, H) + 4096);
    const from = heap.alloc(W * H * 6 + 64);
    const to = heap.alloc(W * H * 6 + 64);
    heap.u16(from, W * H * 3).set(noisy);
    for (const [a, b] of cuts) reduceNoise(heap, from, to, W, H, 0.7, 1, a, b);
    return heap.u16(to, W * H * 3).slice();
  };
  const whole = smoothed([[0, H]]);
  const parts = smoothed([
    [0, 96],
    [96, 208],
    [208, H],
  ]);
  expect(apart(whole, clean)).toBeLessThan(0.6 * apart(noisy, clean));
  let worst = 0;
  whole.forEach((v, i) => {
    worst = Math.max(worst, Math.abs(v - parts[i]!));
  });
  expect(worst).toBeLessThanOrEqual(1);
});

test("frames that need nothing are read as they are", () => {
  expect(preparationOf(AS_TAKEN)).toBeUndefined();
  expect(preparationOf({ ...AS_TAKEN, noise: 0.1 })).toMatchObject({ noise: 0.1 });
});
