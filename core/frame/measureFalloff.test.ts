import { Heap } from "../../kernels/heap";
import { alignStack } from "../align/alignStack";
import { decode, SPACES } from "../colour/spaces";
import { rescale } from "../math/matrix3";
import { random } from "../math/random";
import { simulateBracket } from "../../simulate/bracket";
import { simulatedRoom } from "../../simulate/room";
import { coarseLight, measureFalloff } from "./measureFalloff";
import type { Measured } from "./measureBending";

const W = 720;
const H = 480;
const BY = 2;
const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
const scenes = [12, 77].map((seed) => simulatedRoom(W + 120, H + 120, seed));

/** Takes a bracket of a room by hand, aligns it, and measures its corners. */
function measured(scene: number, hand: number, vignetting: number): Measured | undefined {
  const evs = [-2, 0, 2];
  const { frames } = simulateBracket(scenes[scene]!, {
    width: W,
    height: H,
    evs,
    baseEv: 0,
    hand,
    seed: 5 + scene,
    reference: 1,
    shot: { vignetting },
  });
  const heap = Heap.local(W * H * 120);
  const loaded = frames.map((f) => ({
    ptr: heap.putBytes(f.samples as Uint8Array),
    type: "u8" as const,
    width: W,
    height: H,
    lut: LUT,
  }));
  const aligned = alignStack(heap, loaded, evs, {
    motion: "auto",
    reference: 1,
    deghost: false,
    strength: 0.5,
    forced: [],
    scale: 1,
  });
  const lights = frames.map((f) => coarseLight(W, H, BY, (i) => LUT[256 + f.samples[i * 3 + 1]!]!));
  return measureFalloff(
    W / BY,
    H / BY,
    lights[1]!,
    [0, 2].map((i) => ({
      light: lights[i]!,
      fromReference: rescale(aligned[i]!.fromReference, 1 / BY),
    })),
  );
}

test.each([
  [0, 0.2],
  [0, 0.45],
  [1, 0.35],
])(
  "room %d, corners that lack %d of light: found to 0.03 though the room's own corners are dark",
  (scene, vignetting) => {
    expect(Math.abs(measured(scene, 0.3, vignetting)!.value - vignetting)).toBeLessThan(0.03);
  },
);

test("a lens that lacks nothing is called even", () => {
  expect(measured(1, 0.5, 0)!.value).toBe(0);
});

test("a tripod's frames tell nothing of the corners", () => {
  expect(measured(0, 0, 0.4)).toBeUndefined();
});

test("a level of light that a profile tells wrongly is no falloff", () => {
  const n = 300;
  const m = 200;
  const dx = 6;
  const fall = (x: number, y: number): number =>
    1 - 0.3 * (((x - n / 2) ** 2 + (y - m / 2) ** 2) / ((n * n + m * m) / 4));
  // patches of all levels, and a second frame six px aside whose profile bends
  const rnd = random(3);
  const patches = Float32Array.from({ length: 60 * 40 }, () => 0.03 + 0.5 * rnd());
  const scene = (x: number, y: number): number =>
    patches[Math.floor(y / 8) * 60 + Math.floor((x + 20) / 8)]!;
  const plane = (f: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: n * m }, (_, i) => f((i % n) + 0.5, Math.floor(i / n) + 0.5));
  const found = measureFalloff(
    n,
    m,
    plane((x, y) => scene(x, y) * fall(x, y)),
    [
      {
        light: plane((x, y) => (scene(x + dx, y) * fall(x, y)) ** 1.04),
        fromReference: [1, 0, -dx, 0, 1, 0, 0, 0, 1],
      },
    ],
  );
  expect(Math.abs(found!.value - 0.3)).toBeLessThan(0.03);
});
