// Finishing a picture of 6 MP on one thread: each adjustment by itself, ms a megapixel.
//   node build/node/benchFinish.js
import { REST, type Adjustments } from "../core/finish/adjustments";
import { USUAL_MODEL } from "../core/finish/measureNoise";
import { finishedScratch, renderFinished } from "../core/finish/renderFinished";
import { renderStrip } from "../core/tone/renderStrip";
import { Heap } from "../kernels/heap";
import { simulatedRoom } from "../simulate/room";

const WIDTH = 3000;
const HEIGHT = 2000;
const N = WIDTH * HEIGHT;
const heap = Heap.local(N * 24 + finishedScratch(WIDTH, true) + (1 << 24));
const planeBytes = N * 4 + 64;
const ptr = heap.alloc(planeBytes * 4);
const room = simulatedRoom(600, 400, 3);
for (let c = 0; c < 3; c++) {
  const plane = heap.f32(ptr + c * planeBytes, N);
  for (let i = 0; i < N; i++)
    plane[i] =
      room.planes[c]![Math.floor(i / WIDTH / 5) * 600 + Math.floor((i % WIDTH) / 5)]! *
      (1 + 0.02 * Math.sin(i * 1.7));
}
const at = heap.put([0, 0]);
const field = {
  width: 1,
  height: 1,
  slopes: at,
  offsets: at + 4,
  shoulderStart: 0.7,
  white: 1.6,
  floor: 0,
};
const scene = { ptr, planeBytes, width: WIDTH, height: HEIGHT };
const settings = { gains: [1, 1, 1], exposure: 0, space: "srgb", linear: false } as const;
const region = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
const dst = heap.alloc(N * 3 + 64);

function timed(act: () => void): number {
  const start = performance.now();
  act();
  return (performance.now() - start) / (N / 1e6);
}
function finished(set: Partial<Adjustments>): () => void {
  const finish = {
    scale: 1,
    aspect: WIDTH / HEIGHT,
    parts: [{ adjustments: { ...REST, ...set }, amount: 1 }],
    noise: { ...USUAL_MODEL, factor: 1, byWeights: false },
  };
  return () =>
    renderFinished(heap, { scene, field, settings, finish }, region, "rgb8", dst, 0, HEIGHT);
}
const CASES: Record<string, Partial<Adjustments>> = {
  exposure: { exposure: 0.3 },
  contrast: { contrast: 0.3 },
  vignette: { vignette: -1 },
  curve: { curve: [[0.3, 0.25]] },
  saturation: { saturation: 0.3 },
  fine: { fine: 0.5 },
  small: { small: 0.5 },
  sharpening: { sharpening: 0.5 },
  rims: { purpleFringe: 0.5 },
  noise: { noiseReduction: 0.5, colourNoise: 1 },
};
console.log(
  "at rest".padEnd(12),
  timed(() => renderStrip(heap, scene, field, settings, region, "rgb8", dst, 0, HEIGHT)).toFixed(1),
  "ms a megapixel",
);
for (const [name, set] of Object.entries(CASES))
  console.log(name.padEnd(12), timed(finished(set)).toFixed(1));
console.log(
  "all".padEnd(12),
  timed(finished(Object.assign({}, ...Object.values(CASES)) as Partial<Adjustments>)).toFixed(1),
);
