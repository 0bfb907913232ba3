import type { Heap } from "../../kernels/heap";
import { LUMINANCE } from "../colour/luminance";
import { windowVariance } from "../raster/windowVariance";

const ITERATIONS = 3;
/** How far beyond the lightest and darkest around it a pixel may come to lie, share of their range. */
const OVERSHOOT = 0.05;
/** Radius of the window in which an edge is looked for, px. */
const EDGE_WINDOW = 2;
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
  heap.k.localRange(seen, w, h, heap.alloc(rangeRows(w)), least, most);
  heap.k.holdOvershoot(estimate, least, most, n, OVERSHOOT);
  heap.k.quotient(estimate, seen, n, blurred);
  const variance = windowVariance(heap, logLight, w, h, EDGE_WINDOW);
  heap.k.sharpeningEv(blurred, variance, noiseEv, n, (edges * STRONGEST_EDGE_EV) ** 2, out);
  heap.release(mark);
  return out;
}

function luminanceOf(heap: Heap, light: number, bytes: number, n: number, to: number): void {
  heap.k.zero(to, n * 4);
  for (const [c, share] of LUMINANCE.entries())
    heap.k.addMasked(light + c * bytes, 0, n, share, to);
  heap.k.scaleWithin(to, n, 1, 1e-9, 1e18);
}

/** Px to each side that a blur reaches. */
const blurReach = (sigma: number): number => Math.max(1, Math.ceil(sigma * 2.5));

/** Px to each side that all iterations together reach. */
export const deconvolutionReach = (sigma: number): number => 2 * ITERATIONS * blurReach(sigma) + 3;

/** A Gaussian blur of planes of w x h, from one into another. */
function gaussian(
  heap: Heap,
  sigma: number,
  w: number,
  h: number,
  between: number,
): (from: number, to: number) => void {
  const r = blurReach(sigma);
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

/** Bytes of the rows that `localRange` works in. */
export const rangeRows = (width: number): number => width * 8 + 256;
