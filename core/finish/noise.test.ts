import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { denoise } from "./denoise";
import { measureNoise, USUAL_MODEL } from "./measureNoise";

const W = 320;
const H = 240;
const N = W * H;
const BYTES = N * 4 + 64;

/** Steps, a ramp and texture, in three colours. */
const truth = (x: number, y: number, c: number): number => {
  const ramp = 0.02 + 0.3 * (y / H);
  const step = x > W / 2 ? 0.35 : 0;
  const texture = y > 180 ? 0.05 * Math.sin(x / 2.5) * Math.sin(y / 3) : 0;
  return ramp + step * [1, 0.8, 0.6][c]! + texture;
};

function noisyScene(times: number, seed: number) {
  const rnd = random(seed);
  const heap = Heap.local(N * 120 + (1 << 22));
  const ptr = heap.alloc(BYTES * 4);
  const { perUnit, read2 } = USUAL_MODEL;
  for (let c = 0; c < 3; c++)
    for (let i = 0; i < N; i++) {
      const light = truth(i % W, Math.floor(i / W), c);
      const gaussian = Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd());
      const sigma = times * Math.sqrt(perUnit * light + read2);
      heap.f32(ptr + c * BYTES, N)[i] = light + sigma * gaussian;
    }
  const weights = heap.f32(ptr + 3 * BYTES, N);
  for (let i = 0; i < N; i++) {
    const light = truth(i % W, Math.floor(i / W), 1);
    weights[i] = 1 / (perUnit * light + read2);
  }
  return { heap, scene: { ptr, planeBytes: BYTES, width: W, height: H } };
}

const errorOf = (heap: Heap, planes: number): number => {
  let sum = 0;
  for (let c = 0; c < 3; c++)
    for (let i = 0; i < N; i++)
      sum += (heap.f32(planes + c * BYTES, N)[i]! - truth(i % W, Math.floor(i / W), c)) ** 2;
  return Math.sqrt(sum / (3 * N));
};

test.each([0.5, 2, 4])("noise of %f times the model is measured so", (times) => {
  const { heap, scene } = noisyScene(times, 7);
  expect(measureNoise(heap, scene, false).factor / times).toBeCloseTo(1, 1);
  // light at colours' own levels differs a little from the weights', which go by green
  expect(Math.abs(measureNoise(heap, scene, true).factor / times - 1)).toBeLessThan(0.15);
});

test.each([1, 3])(
  "noise of %f times the model goes by 8 dB, and edges keep their contrast",
  (times) => {
    const { heap, scene } = noisyScene(times, 9);
    const before = errorOf(heap, scene.ptr);
    const sigma = heap.alloc(BYTES);
    heap.f32(sigma, N).fill(times);
    const clean = denoise(heap, scene.ptr, BYTES, sigma, scene, USUAL_MODEL);
    const gain = 20 * Math.log10(before / errorOf(heap, clean));
    expect(gain).toBeGreaterThan(8);
    const green = heap.f32(clean + BYTES, N);
    const meanAt = (x: number): number => {
      let sum = 0;
      for (let y = 20; y < 160; y++) sum += green[y * W + x]!;
      return sum / 140;
    };
    const contrast = meanAt(W / 2 + 3) - meanAt(W / 2 - 3);
    expect(contrast / (0.35 * 0.8)).toBeGreaterThan(0.95);
  },
);

test("without noise nothing goes", () => {
  const { heap, scene } = noisyScene(0, 1);
  const sigma = heap.alloc(BYTES);
  heap.f32(sigma, N).fill(1e-6);
  const clean = denoise(heap, scene.ptr, BYTES, sigma, scene, USUAL_MODEL);
  expect(errorOf(heap, clean)).toBeLessThan(1e-5);
});

test("what every frame has clipped, or none is sure of, is left as it is", () => {
  const { heap, scene } = noisyScene(1, 5);
  const weights = heap.f32(scene.ptr + 3 * BYTES, N);
  const light = [0, 1, 2].map((c) => heap.f32(scene.ptr + c * BYTES, N));
  const isClipped = (i: number): boolean => i % W > 250 && Math.floor(i / W) > 150;
  for (let i = 0; i < N; i++)
    if (isClipped(i)) {
      weights[i] = [1e-20, 1e-7, 0.05][i % 3]!;
      for (const plane of light) plane[i] = 0.9;
    }
  const sigma = heap.alloc(BYTES);
  const { perUnit, read2 } = USUAL_MODEL;
  heap.k.noiseRow(scene.ptr, BYTES, scene.ptr + 3 * BYTES, N, perUnit, read2, 1, sigma);
  const clean = denoise(heap, scene.ptr, BYTES, sigma, scene, USUAL_MODEL);
  for (let i = 0; i < N; i++)
    if (isClipped(i) && i % W > 260 && Math.floor(i / W) > 160)
      for (let c = 0; c < 3; c++)
        expect(Math.abs(heap.f32(clean + c * BYTES, N)[i]! - 0.9)).toBeLessThan(0.02);
});
