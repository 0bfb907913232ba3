import type { Samples } from "../kernels/heap";

/**
 * Mean over squares of s x s, RGB interleaved; the size is rounded up and the last squares are what
 * is left.
 */
export function boxReduce<T extends Samples>(
  src: T,
  w: number,
  h: number,
  s: number,
): { samples: T; width: number; height: number } {
  const W = Math.ceil(w / s);
  const H = Math.ceil(h / s);
  const round = !(src instanceof Float32Array);
  const out = new (src.constructor as new (n: number) => T)(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        let n = 0;
        for (let j = y * s; j < Math.min(h, y * s + s); j++)
          for (let i = x * s; i < Math.min(w, x * s + s); i++, n++)
            sum += src[(j * w + i) * 3 + c]!;
        out[(y * W + x) * 3 + c] = round ? Math.round(sum / n) : sum / n;
      }
  return { samples: out, width: W, height: H };
}
