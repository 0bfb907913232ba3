import type { Heap } from "../../kernels/heap";
import { isIdentity, project, type Matrix3 } from "../raster/matrix3";
import type { NoiseModel } from "../align/logPyramid";

/** Where a merge gathers: planes R, G, B and weight, `planeBytes` apart, of one width. */
export interface Accumulator { ptr: number; planeBytes: number; width: number; height: number }
export const planeBytesOf = (width: number, height: number): number => Math.ceil((width * height * 4 + 64) / 64) * 64;

export interface FoldInput {
  /** encoded RGB samples of the whole frame, interleaved, at this address */
  samples: number; wide: boolean; width: number; height: number;
  /** three tables, one after the other, from sample to linear */
  lut: Float32Array;
  /** reference px to frame px at this size */
  fromReference: Matrix3;
  /** EV against the reference */
  ev: number;
  noise: NoiseModel;
  /** votes over moving things, on a grid of `scale` px */
  ghosts?: { width: number; height: number; scale: number; votes: Uint8Array };
}

/**
 * Folds rows y0 to y1 of one exposure into the accumulator.
 *
 * Each sample votes with the inverse of its variance under photon and read noise, so the brightest unclipped frame
 * dominates the shadows and a clipped sample has no vote. Where every frame is clipped, the darkest decides.
 *
 * @see Granados et al., "Optimal HDR reconstruction with linear digital cameras", CVPR 2010
 */
export function foldFrame(heap: Heap, acc: Accumulator, input: FoldInput, y0: number, y1: number): void {
  const outer = heap.mark();
  const { k } = heap;
  const lut = heap.put(input.lut);
  const h = heap.put(input.fromReference, "f64");
  const time = 2 ** input.ev;
  // the last resort where all are clipped: far below any real vote, and steeply in favour of the darker frame
  const floorVote = 1e-6 * 16 ** -input.ev;
  const bytes = input.wide ? 6 : 3;
  const ghostRow = input.ghosts ? heap.alloc(acc.width * 4) : 0;
  const args = [time, 1 / input.noise.gain, input.noise.read ** 2, floorVote] as const;
  if (isIdentity(input.fromReference)) {
    const row = heap.alloc(acc.width * 16 + 64);
    for (let y = y0; y < y1; y++) {
      k.linearise(input.samples + y * input.width * bytes, input.wide ? 1 : 0, acc.width, lut, row);
      const votes = input.ghosts && ghostVotes(heap, input.ghosts, y, acc.width, ghostRow) ? ghostRow : 0;
      k.foldUntouched(row, acc.width, votes, acc.ptr, acc.planeBytes, y * acc.width * 4, ...args);
    }
  } else {
    const block = 32;
    for (let b0 = y0; b0 < y1; b0 += block) {
      const b1 = Math.min(y1, b0 + block);
      const ys = [[0, b0], [acc.width, b0], [0, b1], [acc.width, b1]].map(([x, y]) => project(input.fromReference, x!, y!)[1]);
      const s0 = Math.max(0, Math.floor(Math.min(...ys)) - 3), s1 = Math.min(input.height, Math.ceil(Math.max(...ys)) + 3);
      if (s1 <= s0) continue;
      const inner = heap.mark();
      const rows = heap.alloc((s1 - s0) * input.width * 16 + 64);
      k.linearise(input.samples + s0 * input.width * bytes, input.wide ? 1 : 0, (s1 - s0) * input.width, lut, rows);
      for (let y = b0; y < b1; y++) {
        const votes = input.ghosts && ghostVotes(heap, input.ghosts, y, acc.width, ghostRow) ? ghostRow : 0;
        k.foldWarped(rows, input.width, input.height, s0, s1 - s0, y, acc.width, h, votes, acc.ptr, acc.planeBytes, y * acc.width * 4, ...args);
      }
      heap.release(inner);
    }
  }
  heap.release(outer);
}

/** Scratch that foldFrame takes for one call. */
export function foldScratch(width: number, rows: number): number {
  return 3 * 65536 * 4 + Math.ceil(width * 24) + (Math.min(rows, 32) + 12 + Math.ceil(width * 0.12)) * Math.ceil(width * 16) + (1 << 16);
}

/** The votes of one row, bilinear; false where nothing moved in it. */
function ghostVotes(heap: Heap, g: NonNullable<FoldInput["ghosts"]>, y: number, width: number, dst: number): boolean {
  const out = heap.f32(dst, width);
  const gy = Math.max(0, Math.min(g.height - 1.001, (y + 0.5) / g.scale - 0.5)), y0 = Math.floor(gy), fy = gy - y0;
  const a = y0 * g.width, b = Math.min(g.height - 1, y0 + 1) * g.width;
  let moved = false;
  for (let i = 0; i < g.width && !moved; i++) moved = g.votes[a + i]! < 255 || g.votes[b + i]! < 255;
  if (!moved) return false;
  for (let x = 0; x < width; x++) {
    const gx = Math.max(0, Math.min(g.width - 1.001, (x + 0.5) / g.scale - 0.5)), x0 = Math.floor(gx), fx = gx - x0, x1 = Math.min(g.width - 1, x0 + 1);
    const t = g.votes[a + x0]! * (1 - fx) + g.votes[a + x1]! * fx, u = g.votes[b + x0]! * (1 - fx) + g.votes[b + x1]! * fx;
    out[x] = (t + (u - t) * fy) / 255;
  }
  return true;
}
