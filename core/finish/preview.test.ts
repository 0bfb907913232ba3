import { simulatedRoom } from "../../simulate/room";
import { finishOf, finishScene, rendered } from "../../tests/finishScene";
import type { Adjustments } from "./adjustments";

const W = 960;
const H = 640;
const BY = 4;
// as bright as toning leaves it: what is clipped at full size cannot be seen small
const room = simulatedRoom(W, H, 21);
for (const plane of room.planes)
  for (let i = 0; i < plane.length; i++) plane[i] = (0.8 * plane[i]!) / (plane[i]! + 0.25);

const full = finishScene(W, H, (x, y) => {
  const i = y * W + x;
  return [room.planes[0][i]!, room.planes[1][i]!, room.planes[2][i]!];
});
const small = finishScene(W / BY, H / BY, (x, y) => {
  const sums: [number, number, number] = [0, 0, 0];
  for (let j = 0; j < BY; j++)
    for (let i = 0; i < BY; i++)
      for (let c = 0; c < 3; c++)
        sums[c]! += room.planes[c as 0 | 1 | 2][(y * BY + j) * W + x * BY + i]! / BY ** 2;
  return sums;
});

/** dB between the small picture and the large one reduced to its size. */
function previewDb(set: Partial<Adjustments>): number {
  const large = rendered(full, finishOf(set));
  const preview = rendered(small, finishOf(set, [], { scale: 1 / BY }));
  const [w, h] = [W / BY, H / BY];
  let sum = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 3; c++) {
        let mean = 0;
        for (let j = 0; j < BY; j++)
          for (let i = 0; i < BY; i++)
            mean += large[3 * ((y * BY + j) * W + x * BY + i) + c]! / BY ** 2;
        sum += (mean - preview[3 * (y * w + x) + c]!) ** 2;
      }
  return 10 * Math.log10((3 * w * h) / sum);
}

test.each<[Partial<Adjustments>]>([
  [{}],
  [{ exposure: 0.5 }],
  [{ contrast: 0.4 }],
  [
    {
      curve: [
        [0.3, 0.22],
        [0.7, 0.8],
      ],
    },
  ],
  [{ saturation: 0.5, dullColours: 0.3 }],
  [{ darksTint: 0.5, lightsTint: 0.5 }],
  [{ monochrome: 1 }],
  [{ fine: 0.6 }],
  [{ small: 0.6 }],
  [{ sharpening: 0.6 }],
  [{ noiseReduction: 0.6, colourNoise: 1 }],
  [{ vignette: -1 }],
  [{ purpleFringe: 0.7, greenFringe: 0.7 }],
  [{ slope: 1 }],
])("what is seen small is what goes out, reduced: %j", (set) => {
  expect(previewDb(set)).toBeGreaterThan(38);
});
