import type { Heap } from "../../kernels/heap";
import { boxBlur } from "../raster/boxBlur";

export interface GhostVotes { width: number; height: number; /** px of the finest level a sample */ step: number; votes: Uint8Array; share: number }

/** Above this, in EV of a frame's saturation, a sample without votes is clipped and not dark. */
const CLIPPED_EV = -0.25;

/**
 * Finds where a frame disagrees with the merge of the frames before it, beyond noise and what misregistration by a
 * third of a pixel explains, and grows the places into whole things by hysteresis.
 *
 * @param ev  of the frame against the reference: tells its clipped samples, which have no vote and need none
 * @returns votes on a grid of half the size (255 = static, 0 = moved, soft in between), or undefined where nothing moved
 * @see Gallo et al., "Artifact-free high dynamic range imaging", ICCP 2009 (consistency of log radiance with a reference)
 */
export function findGhosts(heap: Heap, merged: { w: number; h: number; log: number; vote: number }, im: { log: number; vote: number },
                           H: readonly number[], offset: number, ev: number): GhostVotes | undefined {
  const { w, h } = merged, n = w * h, step = 2;
  const gw = Math.floor(w / step), gh = Math.floor(h / step);
  const C = heap.f32(merged.log, n), CV = heap.f32(merged.vote, n), L = heap.f32(im.log, n), V = heap.f32(im.vote, n);
  const score = new Float32Array(gw * gh);
  for (let gy = 1; gy < gh - 1; gy++) for (let gx = 1; gx < gw - 1; gx++) {
    const x = gx * step, y = gy * step, i = y * w + x;
    const z = 1 / (H[6]! * (x + 1) + H[7]! * (y + 1) + H[8]!);
    const px = (H[0]! * (x + 1) + H[1]! * (y + 1) + H[2]!) * z, py = (H[3]! * (x + 1) + H[4]! * (y + 1) + H[5]!) * z;
    const ix = Math.round(px - 1), iy = Math.round(py - 1);
    if (ix < 1 || iy < 1 || ix >= w - 2 || iy >= h - 2) continue;
    let d = 0, vc = 1, vl = 1, lo = Infinity, hi = -Infinity;
    for (let b = 0; b < 2; b++) for (let a = 0; a < 2; a++) {
      const k = i + b * w + a, q = (iy + b) * w + ix + a;
      d += L[q]! + offset - C[k]!;
      vc = Math.min(vc, CV[k]!); vl = Math.min(vl, V[q]!);
    }
    d /= 4;
    const level = L[iy * w + ix]! + ev;
    if (level > CLIPPED_EV) continue;
    if (vc < 0.05 || vl < 0.05) {
      // one of the two is beyond its range and gives only a bound: where all so far are clipped the scene is at least
      // that bright, where this frame is black at most that; noise in the black is worth a stop
      const deficit = -d - (vl < 0.05 ? 1.2 : 0.2);
      if ((vc >= 0.05 || C[i]! > CLIPPED_EV) && deficit > 0.2) score[gy * gw + gx] = Math.min(8, deficit / 0.1);
      continue;
    }
    for (let b = -1; b <= 2; b++) for (let a = -1; a <= 2; a++) { const c = C[i + b * w + a]!; if (c < lo) lo = c; if (c > hi) hi = c; }
    // votes are TRUSTED / (TRUSTED + variance): turn them back into variances
    const spread = 0.0025 * (1 / vc + 1 / vl) * 0.5;
    const allowed = Math.sqrt(spread + 0.06 ** 2) + 0.3 * (hi - lo);
    score[gy * gw + gx] = Math.abs(d) / allowed;
  }
  const smooth = boxBlur(score, gw, gh, 2);
  const mask = hysteresis(smooth, gw, gh, 3, 1.3, Math.max(12, (gw * gh) / 12000));
  let marked = 0;
  for (const m of mask) marked += m;
  if (!marked) return undefined;
  const grown = boxBlur(dilate(Float32Array.from(mask), gw, gh, 5), gw, gh, 2);
  return { width: gw, height: gh, step, votes: Uint8Array.from(grown, (v) => Math.round(255 * (1 - Math.min(1, v)))), share: marked / mask.length };
}

function dilate(src: Float32Array, w: number, h: number, r: number): Float32Array {
  const near = boxBlur(src, w, h, r);
  return near.map((v) => (v > 1e-4 ? 1 : 0));
}

function hysteresis(score: Float32Array, w: number, h: number, seed: number, grow: number, smallest: number): Uint8Array {
  const mask = new Uint8Array(score.length), seen = new Uint8Array(score.length);
  for (let s = 0; s < score.length; s++) {
    if (score[s]! < seed || seen[s]) continue;
    const queue = [s];
    seen[s] = 1;
    for (let q = 0; q < queue.length; q++) {
      const i = queue[q]!, x = i % w;
      for (const k of [i - w, i + w, x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1]) {
        if (k >= 0 && k < w * h && !seen[k] && score[k]! >= grow) { seen[k] = 1; queue.push(k); }
      }
    }
    if (queue.length >= smallest) for (const i of queue) mask[i] = 1;
  }
  return mask;
}
