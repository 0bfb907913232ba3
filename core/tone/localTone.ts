import type { Heap } from "../../kernels/heap";
import { boxBlur } from "../raster/boxBlur";

/** The picture reduced for tone analysis: planar linear Rec. 2020 means, at most this long. */
export const GRID_LONG_EDGE = 640;
export interface ToneGrid { width: number; height: number; rgb: Float32Array }

export interface ToneSettings { operator: "none" | "plain" | "local"; strength: number; detail: number }

/** What the point-wise renderer needs: local gain in EV = slope * log2(Y) + offset on the grid, and the placing. */
export interface ToneField {
  width: number; height: number; slopes: Float32Array; offsets: Float32Array;
  /** shoulder: where the roll-off starts and which linear value becomes white; start >= white means none */
  shoulderStart: number; white: number;
}

const FLOOR_EV = -14;
const MID = Math.log2(0.18);
const KNEE = Math.log2(0.4);
const TOP = Math.log2(1.05);

/**
 * The local tone operator.
 *
 * A fast local Laplacian filter over log luminance (Paris et al. 2011; Aubry et al. 2014) compresses differences
 * above 1.2 EV and keeps or lifts detail below, without halos. Its gain is then written as a locally affine function
 * of log luminance (as in guided filtering, He et al. 2013), which carries it to any size edge-true and point-wise:
 * so the preview and the full picture share one field.
 *
 * @param gains  white balance multipliers, so that the luminance is that of the picture to be shown
 */
export function localTone(heap: Heap, grid: ToneGrid, gains: readonly [number, number, number], settings: ToneSettings): ToneField {
  const { width: w, height: h } = grid, n = w * h;
  const flat = (slope: number, offset: number, start: number, white: number): ToneField =>
    ({ width: w, height: h, slopes: new Float32Array(n).fill(slope), offsets: new Float32Array(n).fill(offset), shoulderStart: start, white });
  if (settings.operator !== "local") return flat(0, 0, 1, 1);
  const outer = heap.mark();
  const L = logGrid(heap, grid, gains);
  const sorted = Float32Array.from(heap.f32(L, n)).sort();
  const at = (q: number): number => sorted[Math.min(n - 1, Math.floor(q * n))]!;
  const edges = 1 - 0.8 * settings.strength;
  const filtered = localLaplacian(heap, L, w, h, 1.2, 1 + settings.detail * 1.5, edges, at(0.002), at(0.998));
  const lum = Float32Array.from(heap.f32(L, n)), out = Float32Array.from(heap.f32(filtered, n));
  heap.release(outer);
  const placed = Float32Array.from(out).sort();
  const q = (p: number): number => placed[Math.min(n - 1, Math.floor(p * n))]!;
  // mid-tones to just under middle grey; never far from what the photographer's reference frame showed
  const key = Math.max(-2.2, Math.min(2.2, MID - 0.1 - (0.65 * q(0.5) + 0.35 * (q(0.25) + q(0.9)) / 2)));
  // what would lie above display white is drawn in evenly from KNEE on, so that a window keeps its sky
  const top = q(0.998) + key, pull = top > TOP ? (TOP - KNEE) / (top - KNEE) : 1;
  const gain = out.map((v, i) => { const t = v + key; return (t > KNEE ? KNEE + (t - KNEE) * pull : t) - lum[i]!; });
  const { slopes, offsets } = affineGain(lum, gain, w, h);
  return { width: w, height: h, slopes, offsets, shoulderStart: 0.7, white: 1.6 };
}

function logGrid(heap: Heap, grid: ToneGrid, gains: readonly [number, number, number]): number {
  const n = grid.width * grid.height, plane = n * 4 + 64;
  const src = heap.alloc(plane * 3 + 64), dst = heap.alloc(n * 4 + 64);
  for (let c = 0; c < 3; c++) heap.f32(src + c * plane, n).set(grid.rgb.subarray(c * n, (c + 1) * n));
  heap.k.logLuminance(src, plane, n, ...gains, FLOOR_EV, dst);
  return dst;
}

/** Fast local Laplacian filter on a plane in EV; returns the address of the result. */
export function localLaplacian(heap: Heap, src: number, w: number, h: number, sigma: number, detail: number, edges: number, lo: number, hi: number): number {
  const { k } = heap;
  const sizes: { w: number; h: number }[] = [{ w, h }];
  while (Math.min(sizes.at(-1)!.w, sizes.at(-1)!.h) > 3) sizes.push({ w: (sizes.at(-1)!.w + 1) >> 1, h: (sizes.at(-1)!.h + 1) >> 1 });
  const planes = (): number[] => sizes.map((s) => heap.alloc(s.w * s.h * 4 + 64));
  const row = heap.alloc(w * 4 + 64);
  const gauss = planes(), work = planes(), out = planes(), lap = heap.alloc(w * h * 4 + 64);
  const reduce = (p: number[]): void => { for (let i = 1; i < sizes.length; i++) k.pyrDown(p[i - 1]!, sizes[i - 1]!.w, sizes[i - 1]!.h, p[i]!, row); };
  heap.f32(gauss[0]!, w * h).set(heap.f32(src, w * h));
  reduce(gauss);
  for (let i = 0; i < sizes.length - 1; i++) heap.f32(out[i]!, sizes[i]!.w * sizes[i]!.h).fill(0);
  const count = Math.max(2, Math.min(20, Math.ceil((hi - lo) / 0.9) + 1)), step = Math.max((hi - lo) / (count - 1), 1e-3);
  for (let s = 0; s < count; s++) {
    const g = lo + s * step;
    k.remapAround(gauss[0]!, work[0]!, w * h, g, sigma, detail, edges);
    reduce(work);
    for (let i = 0; i < sizes.length - 1; i++) {
      k.pyrUp(work[i + 1]!, sizes[i]!.w, sizes[i]!.h, work[i]!, lap, -1, row);
      k.selectLevel(gauss[i]!, lap, out[i]!, sizes[i]!.w * sizes[i]!.h, g, step, s === 0 ? 1 : 0, s === count - 1 ? 1 : 0);
    }
  }
  const last = sizes.length - 1;
  heap.f32(out[last]!, sizes[last]!.w * sizes[last]!.h).set(heap.f32(gauss[last]!, sizes[last]!.w * sizes[last]!.h));
  for (let i = last - 1; i >= 0; i--) k.pyrUp(out[i + 1]!, sizes[i]!.w, sizes[i]!.h, out[i]!, out[i]!, 1, row);
  return out[0]!;
}

/** Least squares of gain on log luminance in small windows, then averaged, as in the guided filter. */
function affineGain(L: Float32Array, gain: Float32Array, w: number, h: number): { slopes: Float32Array; offsets: Float32Array } {
  const r = 4, eps = 0.02;
  const mean = (p: Float32Array): Float32Array => boxBlur(p, w, h, r);
  const mL = mean(L), mG = mean(gain), mLL = mean(L.map((v) => v * v)), mLG = mean(L.map((v, i) => v * gain[i]!));
  const a = mL.map((m, i) => (mLG[i]! - m * mG[i]!) / (Math.max(0, mLL[i]! - m * m) + eps));
  const b = a.map((s, i) => mG[i]! - s * mL[i]!);
  return { slopes: boxBlur(a, w, h, 2), offsets: boxBlur(b, w, h, 2) };
}
