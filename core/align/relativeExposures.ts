import type { Heap } from "../../kernels/heap";
import type { ReducedFrame } from "./logPyramid";

/**
 * Exposures against the reference; where the file does not say, from the median ratio of samples
 * both have well exposed.
 */
export function relativeExposures(
  heap: Heap,
  frames: readonly ReducedFrame[],
  evs: readonly (number | undefined)[],
  reference: number,
): number[] {
  if (evs.every((e) => e !== undefined)) return evs.map((e) => e! - evs[reference]!);
  // every 37th pixel's green
  const greens = frames.map((f) => {
    const size = f.lut.length / 3;
    const all = heap.samples(f.ptr, f.type, f.width * f.height * 3);
    const out = new Float32Array(Math.ceil((all.length - 1) / (3 * 37)));
    for (let i = 0; i < out.length; i++) {
      const v = all[1 + i * 3 * 37]!;
      out[i] = f.type === "f32" ? v : f.lut[size + v]!;
    }
    return out;
  });
  const mean = greens.map((g) => {
    let sum = 0;
    for (const v of g) sum += Math.min(1, v);
    return sum;
  });
  const order = frames.map((_, i) => i).sort((a, b) => mean[a]! - mean[b]!);
  const abs: number[] = [];
  abs[order[0]!] = 0;
  for (let k = 1; k < order.length; k++) {
    const a = greens[order[k - 1]!]!;
    const b = greens[order[k]!]!;
    const ratios = new Float32Array(a.length);
    let n = 0;
    for (let i = 0; i < a.length; i++)
      if (a[i]! > 0.004 && b[i]! > 0.004 && b[i]! < 0.9) ratios[n++] = b[i]! / a[i]!;
    abs[order[k]!] =
      abs[order[k - 1]!]! + (n > 20 ? Math.log2(ratios.subarray(0, n).sort()[n >> 1]!) : 2);
  }
  return abs.map((e) => e - abs[reference]!);
}
