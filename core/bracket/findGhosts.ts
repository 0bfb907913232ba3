import type { Heap } from "../../kernels/heap";
import { TRUSTED } from "../align/logPyramid";
import { boxMean } from "../raster/boxMean";

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
  const { w, h } = merged, step = 2;
  const gw = Math.floor(w / step), gh = Math.floor(h / step);
  const mark = heap.mark(), at = heap.alloc(gw * gh * 4);
  heap.k.disagreement(merged.log, merged.vote, im.log, im.vote, w, h, heap.put(H, "f64"), offset, ev, TRUSTED, CLIPPED_EV, at);
  const smooth = heap.f32(boxMean(heap, at, gw, gh, 2), gw * gh);
  const mask = hysteresis(smooth, gw, gh, 3, 1.3, Math.max(12, (gw * gh) / 12000));
  let marked = 0;
  for (const m of mask) marked += m;
  if (!marked) { heap.release(mark); return undefined; }
  // grown by five samples, since the rim of a thing differs less than its middle, then softened
  const near = heap.f32(boxMean(heap, heap.put(mask), gw, gh, 5), gw * gh);
  const grown = heap.f32(boxMean(heap, heap.put(near.map((v) => (v > 1e-4 ? 1 : 0))), gw, gh, 2), gw * gh);
  const votes = Uint8Array.from(grown, (v) => Math.round(255 * Math.max(0, 1 - 2 * v)));
  heap.release(mark);
  return { width: gw, height: gh, step, votes, share: marked / mask.length };
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
