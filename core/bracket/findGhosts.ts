import type { Heap } from "../../kernels/heap";
import { TRUSTED } from "../align/logPyramid";
import { boxMean } from "../raster/boxMean";

export interface GhostVotes { width: number; height: number; /** px of the finest level a sample */ step: number; votes: Uint8Array; share: number }
export interface Disagreement { /** missing where nothing moved */ ghosts?: GhostVotes; /** how far the frame disagrees, in 1/32 widths of the noise, on the same grid */ differs: Omit<GhostVotes, "share"> }

/** Above this, in EV of a frame's saturation, a sample without votes is clipped and not dark. */
const CLIPPED_EV = -0.25;
/** Samples by which every ghost grows; and a disagreement, in widths of the noise, by which it may grow further. */
const RIM = 2, FAINT = 0.7;

/**
 * Finds where a frame disagrees with the merge of the frames before it, beyond noise and what misregistration
 * explains, and grows the places into whole things by hysteresis.
 *
 * @param ev        of the frame against the reference: tells its clipped samples, which have no vote and need none
 * @param slack     px of the finest level by which the two may be misregistered
 * @param strength  0 to 1: how small a disagreement is taken for movement; 0.5 is what noise and misregistration suggest
 * @returns votes on a grid of half the size (255 = static, 0 = moved, soft in between)
 * @see Gallo et al., "Artifact-free high dynamic range imaging", ICCP 2009 (consistency of log radiance with a reference)
 */
export function findGhosts(heap: Heap, merged: { w: number; h: number; log: number; vote: number }, im: { log: number; vote: number },
                           H: readonly number[], offset: number, ev: number, slack: number, strength: number): Disagreement {
  const { w, h } = merged, step = 2;
  const gw = Math.floor(w / step), gh = Math.floor(h / step);
  const mark = heap.mark(), at = heap.alloc(gw * gh * 4);
  heap.k.disagreement(merged.log, merged.vote, im.log, im.vote, w, h, heap.put(H, "f64"), offset, ev, TRUSTED, CLIPPED_EV, slack, at);
  const { near, smooth } = smoothed(heap, at, gw, gh, slack > 0.2 ? 0.7 : 0.2);
  const differs = { width: gw, height: gh, step, votes: bytesOf(smooth, (v) => Math.min(255, v * 32)) }, ease = 4 ** (0.5 - strength);
  const mask = hysteresis(smooth, gw, gh, 3 * ease, 1.3 * ease, Math.max(7, (gw * gh) / 20000) * ease);
  let marked = 0;
  for (const m of mask) marked += m;
  if (!marked) { heap.release(mark); return { differs }; }
  // the rim of a thing differs less than its middle: grown a little everywhere, and further where some disagreement goes on
  const marks = heap.put(mask), spread = boxMean(heap, marks, gw, gh, 5), wide = heap.f32(spread, gw * gh), close = heap.f32(boxMean(heap, marks, gw, gh, RIM), gw * gh);
  for (let i = 0; i < wide.length; i++) wide[i] = close[i]! > 1e-4 || (wide[i]! > 1e-4 && near[i]! > FAINT) ? 1 : 0;
  const grown = heap.f32(boxMean(heap, spread, gw, gh, 2), gw * gh);
  const votes = bytesOf(grown, (v) => Math.round(255 * Math.max(0, 1 - 2 * v)));
  heap.release(mark);
  return { ghosts: { width: gw, height: gh, step, votes, share: marked / mask.length }, differs };
}

/** Means of the score over 3 x 3 and 5 x 5 samples, of those that can be compared; less than `leastKnown` of them count for less. */
function smoothed(heap: Heap, at: number, w: number, h: number, leastKnown: number): { near: Float32Array; smooth: Float32Array } {
  const known = heap.alloc(w * h * 4), score = heap.f32(at, w * h), isKnown = heap.f32(known, w * h);
  for (let i = 0; i < score.length; i++) { isKnown[i] = score[i]! < 0 ? 0 : 1; if (score[i]! < 0) score[i] = 0; }
  const [near, smooth] = [1, 2].map((r) => {
    const mean = heap.f32(boxMean(heap, at, w, h, r), w * h), share = heap.f32(boxMean(heap, known, w, h, r), w * h);
    for (let i = 0; i < mean.length; i++) mean[i]! /= Math.max(share[i]!, leastKnown);
    return mean;
  }) as [Float32Array, Float32Array];
  return { near, smooth };
}

/** In a loop of its own: `Uint8Array.from` walks an iterator, which takes ten times as long. */
function bytesOf(values: Float32Array, byte: (v: number) => number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let i = 0; i < out.length; i++) out[i] = byte(values[i]!);
  return out;
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
