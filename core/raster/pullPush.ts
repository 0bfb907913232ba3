/**
 * Carries what is measured smoothly into what is not: averages upwards until everything is known,
 * then comes down again.
 *
 * @param means     planes of w x h cells, one a channel, and after them how far each cell is
 *   measured, 0 to 1
 * @param channels  how many planes there are before the shares
 * @param wanted    the cells that need it; all by default
 * @returns planes of the channels, measured cells as they were; 0 where nothing at all is measured
 * @see Gortler et al., "The lumigraph", SIGGRAPH 1996 (pull and push)
 */
export function pullPush(
  means: Float32Array,
  channels: number,
  w: number,
  h: number,
  wanted: (i: number) => boolean = () => true,
): Float32Array {
  const n = w * h;
  const fill = means.slice(0, channels * n);
  const share = means.subarray(channels * n);
  if (w <= 1 && h <= 1) return fill;
  const W = (w + 1) >> 1;
  const H = (h + 1) >> 1;
  const N = W * H;
  const up = new Float32Array(N * (channels + 1));
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const k = (y >> 1) * W + (x >> 1);
      const s = share[i]!;
      if (!s) continue;
      for (let c = 0; c < channels; c++) up[c * N + k]! += means[c * n + i]! * s;
      up[channels * N + k]! += s;
    }
  for (let k = 0; k < N; k++) {
    const s = up[channels * N + k]!;
    if (s > 0) for (let c = 0; c < channels; c++) up[c * N + k]! /= s;
    up[channels * N + k] = Math.min(1, s);
  }
  const coarse = pullPush(up, channels, W, H);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const s = share[i]!;
      if (s >= 1 || !wanted(i)) continue;
      for (let c = 0; c < channels; c++)
        fill[c * n + i] =
          means[c * n + i]! * s +
          bilinear(coarse, c * N, W, H, x / 2 - 0.25, y / 2 - 0.25) * (1 - s);
    }
  return fill;
}

/** A plane of w x h at `at`, between its cells; x and y count from the first cell's middle. */
export function bilinear(
  p: Float32Array,
  at: number,
  w: number,
  h: number,
  x: number,
  y: number,
): number {
  const cx = Math.max(0, Math.min(w - 1, x));
  const cy = Math.max(0, Math.min(h - 1, y));
  const ix = Math.floor(cx);
  const iy = Math.floor(cy);
  const fx = cx - ix;
  const fy = cy - iy;
  const jx = Math.min(w - 1, ix + 1);
  const jy = Math.min(h - 1, iy + 1);
  const top = p[at + iy * w + ix]! * (1 - fx) + p[at + iy * w + jx]! * fx;
  const bottom = p[at + jy * w + ix]! * (1 - fx) + p[at + jy * w + jx]! * fx;
  return top * (1 - fy) + bottom * fy;
}
