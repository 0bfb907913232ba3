import type { Heap } from "../../kernels/heap";
import { IDENTITY, longestMove, project, rescale } from "../raster/matrix3";
import { findGhosts } from "../bracket/findGhosts";
import { logPyramid, reduceLevels, type LogPyramid, type ReducedFrame } from "./logPyramid";
import { registerPair, type MotionModel } from "./registerPair";

export interface AlignedFrame {
  /** reference px to this frame's px, both full size, row-major */
  fromReference: number[];
  /** EV of this frame against the reference, refined from the pixels */
  ev: number;
  /** estimate of what is left, in full-size px */
  residualPx: number;
  used: boolean;
  /** the longest way of a corner, full-size px */
  movedPx: number;
  warning?: string;
  /** vote per sample of the half-size grid where something moved, 0 = ghost; missing where nothing did */
  ghosts?: { width: number; height: number; scale: number; votes: Uint8Array; share: number };
}

export interface AlignOptions { motion: MotionModel | "auto"; reference: number; deghost: boolean; /** full-size px a px of the reduced frames */ scale: number }

/**
 * Aligns the exposures of a bracket to its reference frame, and finds what moved between them.
 *
 * Frames are taken outwards from the reference by exposure. Each is registered to the merge of all before it, in
 * the reference's own geometry: so every pair shares the widest possible range of well exposed tones and no error
 * adds up along a chain.
 *
 * @param frames  reduced frames of one size; `evs` their exposures as far as known
 */
export function alignStack(heap: Heap, frames: readonly ReducedFrame[], evs: readonly (number | undefined)[], options: AlignOptions): AlignedFrame[] {
  const { reference, scale } = options;
  const outer = heap.mark();
  const ref = frames[reference]!;
  const w = ref.width, h = ref.height;
  const known = relativeExposures(heap, frames, evs, reference);
  const first = logPyramid(heap, ref, 0);
  const merged = first.levels[0]!;
  let template: LogPyramid = first;
  const out: AlignedFrame[] = frames.map(() => ({ fromReference: [...IDENTITY], ev: 0, residualPx: 0, used: true, movedPx: 0 }));
  const order = frames.map((_, i) => i).filter((i) => i !== reference).sort((a, b) => Math.abs(known[a]!) - Math.abs(known[b]!) || a - b);
  const base = heap.mark();
  for (const i of order) {
    heap.release(base);
    if (template !== first) template = reduceLevels(heap, merged);
    const image = logPyramid(heap, frames[i]!, known[i]!);
    const found = choose(heap, template, image, options.motion);
    const moved = longestMove(found.transform, w, h) * scale;
    const weak = found.overlap < 0.004;
    // below this, resampling costs more sharpness than it mends
    const still = moved < 0.2 || weak;
    const transform = still ? [...IDENTITY] : found.transform;
    const failed = !weak && found.residualEv > 0.45;
    out[i] = {
      fromReference: rescale(transform, scale), ev: known[i]! - (weak ? 0 : Math.max(-0.35, Math.min(0.35, found.offset))),
      residualPx: weak || options.motion === "none" ? 0 : precision(heap, template, found) * scale, used: !failed, movedPx: still ? 0 : moved,
      ...(failed ? { warning: "does not fit the other frames; it was left out" } : weak ? { warning: "too little in common with the other exposures to measure its motion; taken as it lies" } : {}),
    };
    if (failed) continue;
    const votes = options.deghost ? findGhosts(heap, merged, image.levels[0]!, transform, found.offset, known[i]!) : undefined;
    if (votes) out[i]!.ghosts = { width: votes.width, height: votes.height, scale: scale * votes.step, votes: votes.votes, share: votes.share };
    const own = image.levels[0]!, held = heap.mark();
    heap.k.foldLog(merged.log, merged.vote, own.log, own.vote, w, h, heap.put(transform, "f64"), weak ? 0 : found.offset, votes ? heap.putBytes(votes.votes) : 0, votes?.width ?? 1, votes?.height ?? 1, votes?.step ?? 1);
    heap.release(held);
    template = { levels: [merged] };
  }
  heap.release(outer);
  return out;
}

function choose(heap: Heap, template: LogPyramid, image: LogPyramid, motion: AlignOptions["motion"]) {
  if (motion !== "auto") return registerPair(heap, template, image, motion);
  const similar = registerPair(heap, template, image, "similarity");
  // little in common holds a shift, but no scale
  if (similar.overlap < 0.03) return registerPair(heap, template, image, "shift");
  // the richer model has to earn its four parameters
  const bent = registerPair(heap, template, image, "homography", similar.transform);
  const t = template.levels[0]!;
  const apart = Math.max(...[[0, 0], [t.w, 0], [0, t.h], [t.w, t.h]].map(([x, y]) => {
    const [a, b] = project(similar.transform, x!, y!), [c, d] = project(bent.transform, x!, y!);
    return Math.hypot(a - c, b - d);
  }));
  return bent.residualEv < similar.residualEv * 0.985 && apart > 0.15 ? bent : similar;
}

/** One standard deviation of the shift: noise over the gradient energy that held it (Cramer-Rao kind). */
function precision(heap: Heap, template: LogPyramid, found: { residualEv: number; overlap: number }): number {
  const t = template.levels[0]!, L = heap.f32(t.log, t.w * t.h), V = heap.f32(t.vote, t.w * t.h);
  let energy = 0;
  for (let y = 1; y < t.h - 1; y += 3) for (let x = 1; x < t.w - 1; x += 3) { const i = y * t.w + x; const g = (L[i + 1]! - L[i - 1]!) * 0.5; energy += 9 * V[i]! * g * g; }
  // a quarter of the samples are independent after the pyramid's own smoothing and demosaicing
  return Math.min(9, (found.residualEv / Math.sqrt(Math.max(energy * Math.min(1, found.overlap) * 0.25, 1e-9))) + 0.01);
}

/** Exposures against the reference; where the file does not say, from the median ratio of samples both have well exposed. */
function relativeExposures(heap: Heap, frames: readonly ReducedFrame[], evs: readonly (number | undefined)[], reference: number): number[] {
  if (evs.every((e) => e !== undefined)) return evs.map((e) => e! - evs[reference]!);
  // every 37th pixel's green
  const greens = frames.map((f) => {
    const size = f.lut.length / 3, all = heap.samples(f.ptr, f.type, f.width * f.height * 3), out: number[] = [];
    for (let i = 1; i < all.length; i += 3 * 37) out.push(f.type === "f32" ? all[i]! : f.lut[size + all[i]!]!);
    return out;
  });
  const mean = greens.map((g) => g.reduce((s, v) => s + Math.min(1, v), 0));
  const order = frames.map((_, i) => i).sort((a, b) => mean[a]! - mean[b]!);
  const abs: number[] = [];
  abs[order[0]!] = 0;
  for (let k = 1; k < order.length; k++) {
    const a = greens[order[k - 1]!]!, b = greens[order[k]!]!;
    const ratios = a.flatMap((v, i) => (v > 0.004 && b[i]! > 0.004 && b[i]! < 0.9 ? [Math.log2(b[i]! / v)] : [])).sort((x, y) => x - y);
    abs[order[k]!] = abs[order[k - 1]!]! + (ratios.length > 20 ? ratios[ratios.length >> 1]! : 2);
  }
  return abs.map((e) => e - abs[reference]!);
}
