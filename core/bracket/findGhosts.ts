import type { Heap } from "../../kernels/heap";
import { TRUSTED } from "../align/logPyramid";
import { boxMean } from "../raster/boxMean";
import { median } from "../math/median";

export interface GhostConfidence {
  width: number;
  height: number;
  /** px of the finest level a sample */
  step: number;
  confidences: Uint8Array;
  share: number;
}
export interface Disagreement {
  /** missing where nothing moved */
  ghosts?: GhostConfidence;
  /** how far the frame disagrees, in 1/32 widths of the noise, on the same grid */
  differs: Omit<GhostConfidence, "share">;
}

/**
 * Above this, in EV of a frame's saturation, a sample without weight is clipped and not dark.
 */
const CLIPPED_EV = -0.25;
/**
 * Samples by which every ghost grows; by which it may grow where disagreement goes on; and that
 * disagreement, in widths of the noise.
 */
const GROWTH_ALWAYS = 1;
const GROWTH_AT_MOST = 3;
const GROWTH_DISAGREEMENT = 0.7;
/**
 * Radii in samples within which water or leaves glitter: of the area looked over, and of what lies
 * between two glints.
 */
const RESTLESS_RADIUS = 12;
const GLINT_GAP_RADIUS = 5;
/**
 * Share of samples that disagree from which on an area is restless; how many times that of the
 * whole picture, which noise explains, it has to be besides; and what noise explains at most.
 * Glints differ strongly, most of them: of those that disagree so many do by twice as much, which
 * of noise or a slow change of light few do.
 */
const RESTLESS_SHARE = 0.08;
const ABOVE_NOISE = 3;
const MAX_NOISE_SHARE = 0.1;
const STRONG_SHARE = 0.2;

/**
 * Finds where a frame disagrees with the merge of the frames before it, beyond noise and what
 * misregistration explains, and grows the places into whole things by hysteresis.
 *
 * @param ev        of the frame against the reference: tells its clipped samples, which have no
 *   weight and need none
 * @param slack     px of the finest level by which the two may be misregistered
 * @param reduced   whether samples stand for several px of the frame, some of which may be clipped
 *   where others are not
 * @param ringing   share of the way in code values to the brightest sample of its 8 x 8 block by
 *   which a lossy file's sample errs; 0 of others
 * @param strength  0 to 1: how small a disagreement is taken for movement; 0.5 is what noise and
 *   misregistration suggest
 * @returns confidences on a grid of half the size (255 = static, 0 = moved, soft in between)
 * @see Gallo et al., "Artifact-free high dynamic range imaging", ICCP 2009 (consistency of log
 *   radiance with a reference)
 */
export function findGhosts(
  heap: Heap,
  merged: { w: number; h: number; log: number; confidence: number },
  im: { log: number; confidence: number },
  H: readonly number[],
  offset: number,
  ev: number,
  slack: number,
  reduced: boolean,
  ringing: number,
  strength: number,
): Disagreement {
  const { w, h } = merged;
  const step = 2;
  const gw = Math.floor(w / step);
  const gh = Math.floor(h / step);
  const mark = heap.mark();
  const at = heap.alloc(gw * gh * 4);
  const blocks = [merged.log, im.log].map((plane) => {
    if (!ringing) return 0;
    const out = heap.alloc(Math.ceil(w / 8) * Math.ceil(h / 8) * 4);
    heap.k.brightest(plane, w, h, out);
    return out;
  }) as [number, number];
  heap.k.disagreement(
    merged.log,
    merged.confidence,
    im.log,
    im.confidence,
    w,
    h,
    heap.put(H, "f64"),
    offset,
    ev,
    TRUSTED,
    CLIPPED_EV,
    slack,
    reduced ? 1 : 0,
    ringing,
    ...blocks,
    at,
  );
  const { known, near, smooth } = smoothed(heap, at, gw, gh, slack > 0.2 ? 0.7 : 0.2);
  const differs = {
    width: gw,
    height: gh,
    step,
    confidences: bytesOf(smooth, (v) => Math.min(255, v * 32)),
  };
  const ease = 4 ** (0.5 - strength);
  const mask = hysteresis(
    smooth,
    gw,
    gh,
    3 * ease,
    1.3 * ease,
    Math.max(7, (gw * gh) / 20000) * ease,
  );
  const restless = restlessAreas(heap, at, known, gw, gh, 1.3 * ease, mask);
  let marked = 0;
  for (let i = 0; i < mask.length; i++) marked += mask[i]! || restless[i]! ? 1 : 0;
  if (!marked) {
    heap.release(mark);
    return { differs };
  }
  // the rim of a thing differs less than its middle: grown a little everywhere, and further where
  // some disagreement goes on
  const marks = heap.put(mask);
  const spread = boxMean(heap, marks, gw, gh, GROWTH_AT_MOST);
  const wide = heap.f32(spread, gw * gh);
  const close = heap.f32(boxMean(heap, marks, gw, gh, GROWTH_ALWAYS), gw * gh);
  for (let i = 0; i < wide.length; i++)
    wide[i] =
      restless[i]! || close[i]! > 1e-4 || (wide[i]! > 1e-4 && near[i]! > GROWTH_DISAGREEMENT)
        ? 1
        : 0;
  const grown = heap.f32(boxMean(heap, spread, gw, gh, 2), gw * gh);
  const confidences = bytesOf(grown, (v) => Math.round(255 * Math.max(0, 1 - 2 * v)));
  heap.release(mark);
  return {
    ghosts: { width: gw, height: gh, step, confidences, share: marked / mask.length },
    differs,
  };
}

/**
 * Means of the score over 3 x 3 and 5 x 5 samples, of those that can be compared; less than
 * `leastKnown` of them count for less.
 */
function smoothed(
  heap: Heap,
  at: number,
  w: number,
  h: number,
  leastKnown: number,
): { known: number; near: Float32Array; smooth: Float32Array } {
  const known = heap.alloc(w * h * 4);
  const score = heap.f32(at, w * h);
  const isKnown = heap.f32(known, w * h);
  for (let i = 0; i < score.length; i++) {
    isKnown[i] = score[i]! < 0 ? 0 : 1;
    if (score[i]! < 0) score[i] = 0;
  }
  const [near, smooth] = [1, 2].map((r) => {
    const mean = heap.f32(boxMean(heap, at, w, h, r), w * h);
    const share = heap.f32(boxMean(heap, known, w, h, r), w * h);
    for (let i = 0; i < mean.length; i++) mean[i]! /= Math.max(share[i]!, leastKnown);
    return mean;
  }) as [Float32Array, Float32Array];
  return { known, near, smooth };
}

/**
 * Marks areas in which far more samples disagree than in the rest of the picture: on water and in
 * leaves many small things move, of which each is too small or too faint to be found by itself, and
 * what lies between them moves as well.
 *
 * @param least  disagreement that noise does not explain
 */
function restlessAreas(
  heap: Heap,
  score: number,
  known: number,
  w: number,
  h: number,
  least: number,
  mask: Uint8Array,
): Uint8Array {
  const mark = heap.mark();
  const mean = (plane: number, r: number): Float32Array =>
    heap.f32(boxMean(heap, plane, w, h, r), w * h);
  const disagrees = heap.alloc(w * h * 4);
  const strongly = heap.alloc(w * h * 4);
  const asked = heap.alloc(w * h * 4);
  const scores = heap.f32(score, w * h);
  const isKnown = heap.f32(known, w * h);
  // a thing's rim disagrees as well and is no sign of others
  const found = mean(heap.put(mask), 2);
  const marks = heap.f32(disagrees, w * h);
  const strong = heap.f32(strongly, w * h);
  const open = heap.f32(asked, w * h);
  for (let i = 0; i < marks.length; i++) {
    const free = found[i]! > 1e-4 ? 0 : 1;
    marks[i] = free && scores[i]! > least ? 1 : 0;
    strong[i] = free && scores[i]! > 2 * least ? 1 : 0;
    open[i] = free * isKnown[i]!;
  }
  const around = mean(disagrees, RESTLESS_RADIUS);
  const much = mean(strongly, RESTLESS_RADIUS);
  const comparable = mean(asked, RESTLESS_RADIUS);
  const shares: number[] = [];
  for (let y = RESTLESS_RADIUS; y < h; y += RESTLESS_RADIUS)
    for (let x = RESTLESS_RADIUS; x < w; x += RESTLESS_RADIUS)
      if (comparable[y * w + x]! > 0.2) shares.push(around[y * w + x]! / comparable[y * w + x]!);
  const usual = median(shares);
  const wanted = RESTLESS_SHARE + ABOVE_NOISE * Math.min(MAX_NOISE_SHARE, usual);
  // closed: what lies between is taken in, what lies outside is not
  for (let i = 0; i < marks.length; i++)
    marks[i] =
      around[i]! > wanted * Math.max(comparable[i]!, 0.2) &&
      much[i]! > STRONG_SHARE * around[i]! &&
      (mask[i]! || marks[i]!)
        ? 1
        : 0;
  const wide = mean(disagrees, GLINT_GAP_RADIUS);
  for (let i = 0; i < wide.length; i++) marks[i] = wide[i]! > 1e-4 ? 1 : 0;
  const closed = bytesOf(mean(disagrees, GLINT_GAP_RADIUS), (v) => (v > 0.999 ? 1 : 0));
  heap.release(mark);
  return closed;
}

/** In a loop of its own: `Uint8Array.from` walks an iterator, which takes ten times as long. */
function bytesOf(values: Float32Array, byte: (v: number) => number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let i = 0; i < out.length; i++) out[i] = byte(values[i]!);
  return out;
}

function hysteresis(
  score: Float32Array,
  w: number,
  h: number,
  seed: number,
  grow: number,
  smallest: number,
): Uint8Array {
  const mask = new Uint8Array(score.length);
  const seen = new Uint8Array(score.length);
  for (let s = 0; s < score.length; s++) {
    if (score[s]! < seed || seen[s]) continue;
    const queue = [s];
    seen[s] = 1;
    for (let q = 0; q < queue.length; q++) {
      const i = queue[q]!;
      const x = i % w;
      for (const k of [i - w, i + w, x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1]) {
        if (k >= 0 && k < w * h && !seen[k] && score[k]! >= grow) {
          seen[k] = 1;
          queue.push(k);
        }
      }
    }
    if (queue.length >= smallest) for (const i of queue) mask[i] = 1;
  }
  return mask;
}
