import type { Heap } from "../../kernels/heap";
import { logPyramid, type ReducedFrame } from "../align/logPyramid";
import type { DustSpot } from "./preparation";
import { clamp } from "../math/clamp";

/** Radii looked for, px of the reduced frames. */
const RADII = [2, 3, 4, 6];
/** EV that dust takes away: less is lost in noise, more is a thing. */
const MIN_LOSS_EV = 0.03;
const MAX_LOSS_EV = 0.7;
/** Unevenness of the finest ground, EV: noise of a good exposure. */
const MIN_GROUND_NOISE_EV = 0.02;
/**
 * How far a spot has to stand out, in widths of its ground's unevenness over all frames; how many
 * frames have to tell of it, by their weights; and how much it may vary among them.
 */
const MIN_SIGMA = 2.8;
const CLEAR_SIGMA = 4;
const MIN_FRAME_WEIGHT = 1.7;
const MAX_SPREAD = 0.6;
/** Nobody marks more manually either. */
const MAX_SPOTS = 80;

/**
 * Likely dust on the sensor: small, round, soft shadows that lie in the same place of every frame,
 * whatever the camera looked at. Each frame's word counts by how even its ground is there, so what
 * belongs to a scene cancels out over several.
 *
 * @param frames  reduced frames of one camera and size as it took them, best of different scenes:
 *   what is the same in two frames of one scene is taken for dust as well
 * @returns       the surest first
 */
export function findDust(heap: Heap, frames: readonly ReducedFrame[]): DustSpot[] {
  const { width: w, height: h } = frames[0]!;
  const n = w * h;
  const outer = heap.mark();
  const alloc = (): number => heap.alloc(n * 4 + 64);
  const sums = RADII.map(() => ({
    weight: new Float32Array(n),
    depth: new Float32Array(n),
    spread: new Float32Array(n),
    squares: new Float32Array(n),
  }));
  for (const frame of frames) {
    const mark = heap.mark();
    const { log, confidence } = logPyramid(heap, frame, 0).levels[0]!;
    const square = alloc();
    const row = heap.alloc((w + 64) * 16);
    const [inner, inner2, wide, wide2] = [alloc(), alloc(), alloc(), alloc()];
    const L = heap.f32(log, n);
    const V = heap.f32(confidence, n);
    const S = heap.f32(square, n);
    for (let i = 0; i < n; i++) S[i] = L[i]! * L[i]!;
    for (const [k, r] of RADII.entries()) {
      const R = 2 * r + 1;
      const a = (2 * r + 1) ** 2;
      const b = (2 * R + 1) ** 2 - a;
      const { weight, depth, spread, squares } = sums[k]!;
      for (const [src, radius, dst] of [
        [log, r, inner],
        [square, r, inner2],
        [log, R, wide],
        [square, R, wide2],
      ] as const)
        heap.k.boxMean(src, w, h, radius, row, dst, 0, h);
      const I = heap.f32(inner, n);
      const I2 = heap.f32(inner2, n);
      const O = heap.f32(wide, n);
      const O2 = heap.f32(wide2, n);
      for (let y = R; y < h - R; y++)
        for (let i = y * w + R, e = y * w + w - R; i < e; i++) {
          // only where this frame shows its ground well
          if (
            V[i]! < 0.3 ||
            V[i - R]! < 0.3 ||
            V[i + R]! < 0.3 ||
            V[i - R * w]! < 0.3 ||
            V[i + R * w]! < 0.3
          )
            continue;
          const mean = (O[i]! * (a + b) - I[i]! * a) / b;
          const variance = Math.max(0, (O2[i]! * (a + b) - I2[i]! * a) / b - mean * mean);
          const d = mean - I[i]!;
          const q = 1 / (variance + MIN_GROUND_NOISE_EV ** 2);
          weight[i]! += q;
          depth[i]! += q * d;
          spread[i]! += q * d * d;
          squares[i]! += q * q;
        }
    }
    heap.release(mark);
  }
  heap.release(outer);
  const found: { x: number; y: number; r: number; score: number }[] = [];
  for (const [k, r] of RADII.entries()) {
    const { weight, depth, spread, squares } = sums[k]!;
    const score = (i: number): number => (weight[i]! > 0 ? depth[i]! / Math.sqrt(weight[i]!) : 0);
    for (let y = 1; y < h - 1; y++)
      for (let x = 1, i = y * w + 1; x < w - 1; x++, i++) {
        const z = score(i);
        const d = depth[i]! / Math.max(weight[i]!, 1e-9);
        if (
          z < MIN_SIGMA ||
          d < MIN_LOSS_EV ||
          d > MAX_LOSS_EV ||
          [-1, 1, -w, w, -w - 1, -w + 1, w - 1, w + 1].some((o) => score(i + o) > z)
        )
          continue;
        // a dark thing in one frame need not be dust, unless its ground is very even, and dust is
        // about as deep in all of them
        if (
          (z < CLEAR_SIGMA && weight[i]! ** 2 < MIN_FRAME_WEIGHT * squares[i]!) ||
          spread[i]! / weight[i]! - d * d > (MAX_SPREAD * d) ** 2
        )
          continue;
        found.push({ x, y, r, score: z });
      }
  }
  const kept: typeof found = [];
  for (const f of found.sort((p, q) => q.score - p.score)) {
    if (kept.length === MAX_SPOTS) break;
    if (kept.every((o) => Math.hypot(o.x - f.x, o.y - f.y) > 1.5 * (o.r + f.r))) kept.push(f);
  }
  return kept.map(({ x, y, r }) => ({
    x: (x + 0.5) / w,
    y: (y + 0.5) / h,
    radius: clamp((1.5 * r + 1) / w, 0.0005, 0.05),
  }));
}
/** Scratch that it takes. */
export const dustScratch = (width: number, height: number): number =>
  width * height * 4 * 9 + (width + 64) * 64 + (1 << 20);
