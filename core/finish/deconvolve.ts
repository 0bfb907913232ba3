import type { Heap } from "../../kernels/heap";
import { boxRows } from "../raster/boxMean";

const ITERATIONS = 4;
/** How far beyond the lightest and darkest around it a pixel may come to lie, share of their range. */
const OVERSHOOT = 0.05;
/** EV across the window of an edge that counts half, where only edges are sharpened. */
const STRONGEST_EDGE_EV = 0.5;

/**
 * What a Gaussian blur took from luminance, in EV: Richardson's and Lucy's iteration, held within the
 * range of what is around it so that no edge rings, and weighed by how much of an edge there is
 * against noise.
 *
 * @param light   planes R, G, B, `bytes` apart; `logLight` their log2 luminance
 * @param radius  standard deviation of the blur, px of the full-size picture
 * @param edges   0 everywhere to 1 only at strong edges
 * @returns the address of the plane in scratch
 * @see Richardson, JOSA 1972; Lucy, AJ 1974
 */
export function deconvolve(
  heap: Heap,
  light: number,
  bytes: number,
  logLight: number,
  noiseEv: number,
  { width: w, height: h }: { width: number; height: number },
  { radius, edges }: { radius: number; edges: number },
  scale: number,
): number {
  const n = w * h;
  const out = heap.alloc(bytes);
  const sigma = radius * scale;
  // what is smaller than half a px cannot be told from the raster itself
  if (sigma < 0.3) {
    heap.k.zero(out, n * 4);
    return out;
  }
  const mark = heap.mark();
  const plane = (): number => heap.alloc(bytes);
  const seen = plane();
  const estimate = plane();
  const blurred = plane();
  const least = plane();
  const most = plane();
  luminanceOf(heap, light, bytes, n, seen);
  heap.f32(estimate, n).set(heap.f32(seen, n));
  const blur = gaussian(heap, sigma, w, h, plane());
  for (let i = 0; i < ITERATIONS; i++) {
    blur(estimate, blurred);
    heap.k.quotient(seen, blurred, n, blurred);
    blur(blurred, least);
    heap.k.multiplyBy(estimate, least, n);
  }
  heap.k.localRange(seen, w, h, least, most);
  heap.k.holdOvershoot(estimate, least, most, n, OVERSHOOT);
  heap.k.quotient(estimate, seen, n, blurred);
  const ratio = heap.f32(blurred, n);
  const strength = edgeStrength(heap, logLight, noiseEv, w, h, edges);
  const result = heap.f32(out, n);
  for (let i = 0; i < n; i++)
    result[i] = Math.log2(Math.min(4, Math.max(0.25, ratio[i]!))) * strength[i]!;
  heap.release(mark);
  return out;
}

function luminanceOf(heap: Heap, light: number, bytes: number, n: number, to: number): void {
  heap.k.zero(to, n * 4);
  for (const [c, share] of [0.2627, 0.678, 0.0593].entries())
    heap.k.addMasked(light + c * bytes, 0, n, share, to);
  const values = heap.f32(to, n);
  for (let i = 0; i < n; i++) if (!(values[i]! > 1e-9)) values[i] = 1e-9;
}

/** A Gaussian blur of planes of w x h, from one into another. */
function gaussian(
  heap: Heap,
  sigma: number,
  w: number,
  h: number,
  between: number,
): (from: number, to: number) => void {
  const r = Math.max(1, Math.ceil(sigma * 2.5));
  const taps = Array.from({ length: 2 * r + 1 }, (_, i) =>
    Math.exp(-((i - r) ** 2) / (2 * sigma ** 2)),
  );
  const sum = taps.reduce((a, b) => a + b);
  const at = heap.put(taps.map((t) => t / sum));
  const line = heap.alloc((w + 2 * r + 8) * 4);
  return (from, to) => {
    heap.k.convolveDown(from, w, h, at, r, between);
    heap.k.convolveAcross(between, w, h, at, r, line, to);
  };
}

/** How much of an edge there is at each pixel, 0 to 1, against noise and against `edges`. */
function edgeStrength(
  heap: Heap,
  logLight: number,
  noiseEv: number,
  w: number,
  h: number,
  edges: number,
): Float32Array {
  const n = w * h;
  const [mean, squares, spare] = [0, 0, 0].map(() => heap.alloc(n * 4 + 64)) as [
    number,
    number,
    number,
  ];
  const rows = heap.alloc(boxRows(w));
  heap.k.squares(logLight, n, spare);
  heap.k.boxMean(logLight, w, h, 2, rows, mean, 0, h);
  heap.k.boxMean(spare, w, h, 2, rows, squares, 0, h);
  heap.k.varianceOf(mean, squares, n, spare);
  const variance = heap.f32(spare, n);
  const noise = noiseEv ? heap.f32(noiseEv, n) : undefined;
  const wanted = (edges * STRONGEST_EDGE_EV) ** 2;
  for (let i = 0; i < n; i++) {
    const own = noise ? noise[i]! ** 2 : 0;
    const signal = Math.max(0, variance[i]! - own);
    variance[i] = signal / (signal + wanted + own + 1e-7);
  }
  return variance;
}
