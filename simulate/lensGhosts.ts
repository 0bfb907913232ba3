/**
 * A reflection between two faces of a lens: the frame once more, out of focus, its size times
 * `scale` about the lens's axis, and as much of its light.
 */
export interface LensGhost {
  /** negative stands on its head */
  scale: number;
  /** radius of its blur, px */
  blur: number;
  /** of the frame's light, for red, green, blue */
  share: readonly [number, number, number];
}

/** Ghosts are soft: they are drawn so much smaller. */
const STEP = 4;

/**
 * Adds to a frame what its bright things throw onto it within the lens.
 *
 * @param planes  linear light of the frame, width x height, unclipped; changed in place
 * @see Hullin et al., "Physically-Based Real-Time Lens Flare Rendering", 2011: to first order a
 *   ghost is an affine image of the scene
 */
export function addGhosts(
  planes: readonly Float32Array[],
  width: number,
  height: number,
  [cx, cy]: readonly [number, number],
  ghosts: readonly LensGhost[],
): void {
  const w = Math.ceil(width / STEP);
  const h = Math.ceil(height / STEP);
  for (const [c, plane] of planes.entries()) {
    const small = reduced(plane, width, height, w, h);
    for (const { scale, blur, share } of ghosts) {
      const soft = smeared(small, w, h, Math.max(1, Math.round(blur / STEP / Math.abs(scale))));
      const gain = share[c]! / scale ** 2;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          plane[y * width + x]! +=
            gain *
            at(
              soft,
              w,
              h,
              (cx + (x + 0.5 - cx) / scale) / STEP - 0.5,
              (cy + (y + 0.5 - cy) / scale) / STEP - 0.5,
            );
    }
  }
}

function reduced(
  plane: Float32Array,
  width: number,
  height: number,
  w: number,
  h: number,
): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      let n = 0;
      for (let v = y * STEP; v < Math.min(height, (y + 1) * STEP); v++)
        for (let u = x * STEP; u < Math.min(width, (x + 1) * STEP); u++, n++)
          sum += plane[v * width + u]!;
      out[y * w + x] = sum / n;
    }
  return out;
}

/** Two means over boxes, one after the other; beyond the frame is no light. */
function smeared(plane: Float32Array, w: number, h: number, r: number): Float32Array {
  const along = (
    from: Float32Array,
    n: number,
    lines: number,
    step: number,
    next: number,
  ): Float32Array => {
    const out = new Float32Array(from.length);
    for (let l = 0; l < lines; l++) {
      const value = (i: number): number => (i < 0 || i >= n ? 0 : from[l * next + i * step]!);
      let sum = 0;
      for (let i = -r; i < r; i++) sum += value(i);
      for (let i = 0; i < n; i++) {
        sum += value(i + r);
        out[l * next + i * step] = sum / (2 * r + 1);
        sum -= value(i - r);
      }
    }
    return out;
  };
  let out = plane;
  for (let round = 0; round < 2; round++) out = along(along(out, w, h, 1, w), h, w, w, 1);
  return out;
}

function at(plane: Float32Array, w: number, h: number, x: number, y: number): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const u = x - ix;
  const v = y - iy;
  const value = (i: number, j: number): number =>
    i < 0 || j < 0 || i >= w || j >= h ? 0 : plane[j * w + i]!;
  return (
    (value(ix, iy) * (1 - u) + value(ix + 1, iy) * u) * (1 - v) +
    (value(ix, iy + 1) * (1 - u) + value(ix + 1, iy + 1) * u) * v
  );
}
