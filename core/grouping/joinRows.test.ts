import { random } from "../math/random";
import type { FrameInfo } from "../frame/frame";
import { groupFrames } from "./groupFrames";
import { makeSignature } from "./signature";

const W = 360;
const H = 240;
const WIDE = 1100;
const HIGH = 520;

/** A land of many scales, with as much of its contrast as the haze leaves. */
function land(seed: number, haze: (x: number, y: number) => number): Float32Array {
  const rnd = random(seed);
  const out = new Float32Array(WIDE * HIGH).fill(0.35);
  for (const size of [7, 20, 60]) {
    const cols = Math.ceil(WIDE / size) + 1;
    const grid = Float32Array.from(
      { length: cols * (Math.ceil(HIGH / size) + 1) },
      () => rnd() - 0.5,
    );
    for (let i = 0; i < out.length; i++)
      out[i]! +=
        0.33 *
        grid[Math.floor(i / WIDE / size) * cols + Math.floor((i % WIDE) / size)]! *
        haze(i % WIDE, Math.floor(i / WIDE));
  }
  return out;
}

const ROWS = (tops: readonly number[]): [number, number][] => [
  ...[0, 150, 300, 450, 600].map((x): [number, number] => [x, tops[0]!]),
  ...[600, 450, 300, 150, 0].map((x): [number, number] => [x, tops[1]!]),
];

function shoot(
  scenes: readonly Float32Array[],
  places: readonly (readonly [number, number])[],
  pause: number,
): number[] {
  const infos: FrameInfo[] = places.map((_, k) => ({
    name: `R_${k}.jpg`,
    format: "jpeg",
    width: W,
    height: H,
    depth: 8,
    profile: "sRGB",
    exif: {
      exposureTime: 1 / 60,
      aperture: 8,
      iso: 100,
      focalLength: 90,
      focalLength35: 135,
      camera: "C",
      takenAt: k * 2 + (k > 4 ? pause : 0),
    },
  }));
  const rnd = random(5);
  const signatures = places.map(([left, top], k) => {
    const samples = new Float32Array(W * H * 3);
    const scene = scenes[k > 4 ? scenes.length - 1 : 0]!;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        for (let c = 0; c < 3; c++)
          samples[(y * W + x) * 3 + c] =
            Math.max(0.02, scene[(top + y) * WIDE + left + x]!) * (1 + 0.004 * (rnd() - 0.5));
    return makeSignature({ samples, width: W, height: H, lut: new Float32Array(0) });
  });
  return groupFrames(infos, signatures).map((s) => s.frames.length);
}
/** On the right a bank of haze lies between what the two rows show. */
const hazy = (x: number, y: number): number => (x > 480 && y > 105 && y < 260 ? 0.002 : 1);

test("two rows that meet in haze are one panorama, by the frames below each other", () => {
  expect(shoot([land(3, hazy)], ROWS([0, 130]), 0)).toEqual([10]);
});

test("a row of another place is a panorama of its own", () => {
  expect(shoot([land(3, hazy), land(4, hazy)], ROWS([0, 130]), 20)).toEqual([5, 5]);
});
