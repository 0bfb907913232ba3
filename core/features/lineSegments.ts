/** A straight edge, in cells. */
export interface Segment {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/**
 * Contrast from cell to cell that counts, of 1; the squared cosine of how far directions along an
 * edge may differ; the shortest that is kept, cells.
 */
const MIN_SLOPE = 0.012;
const MIN_DIRECTION_COSINE_SQUARED = Math.cos(Math.PI / 8) ** 2;
const MIN_LENGTH_CELLS = 14;

/**
 * Neighbouring pixels whose slopes point about the same way, and how steep each pixel of the
 * picture is.
 */
export interface EdgeRegions {
  regions: number[][];
  steep: Float32Array;
}

/**
 * Edges of a picture that run about straight: neighbours whose slopes point the same way are
 * gathered, steepest first.
 *
 * @param on  1 where there is a picture
 * @see Grompone von Gioi et al., "LSD: a fast line segment detector with a false detection
 *   control", TPAMI 2010
 */
export function edgeRegions(w: number, h: number, grey: Float32Array, on: Uint8Array): EdgeRegions {
  const n = w * h;
  const across = new Float32Array(n);
  const down = new Float32Array(n);
  const steep = new Float32Array(n);
  const seeds: number[] = [];
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      if (!on[i] || !on[i + 1] || !on[i + w] || !on[i + w + 1]) continue;
      const gx = (grey[i + 1]! + grey[i + w + 1]! - grey[i]! - grey[i + w]!) / 2;
      const gy = (grey[i + w]! + grey[i + w + 1]! - grey[i]! - grey[i + 1]!) / 2;
      const size = Math.sqrt(gx * gx + gy * gy);
      steep[i] = size;
      if (steep[i]! <= MIN_SLOPE) continue;
      across[i] = gx / size;
      down[i] = gy / size;
      seeds.push(i);
    }
  seeds.sort((a, b) => steep[b]! - steep[a]! || a - b);
  const used = new Uint8Array(n);
  const regions: number[][] = [];
  for (const s of seeds) {
    if (used[s]) continue;
    const region = [s];
    let c = across[s]!;
    let d = down[s]!;
    used[s] = 1;
    for (let q = 0; q < region.length; q++)
      for (let b = -1; b <= 1; b++)
        for (let a = -1; a <= 1; a++) {
          const k = region[q]! + b * w + a;
          if (k < 0 || k >= n || used[k] || steep[k]! <= MIN_SLOPE) continue;
          // c, d point the region's mean way
          const along = across[k]! * c + down[k]! * d;
          if (along < 0 || along * along < MIN_DIRECTION_COSINE_SQUARED * (c * c + d * d)) continue;
          used[k] = 1;
          region.push(k);
          c += across[k]!;
          d += down[k]!;
        }
    if (region.length >= MIN_LENGTH_CELLS) regions.push(region);
  }
  return { regions, steep };
}

/** Straight edges of a picture. @param on  1 where there is a picture */
export function lineSegments(w: number, h: number, grey: Float32Array, on: Uint8Array): Segment[] {
  const { regions, steep } = edgeRegions(w, h, grey, on);
  return regions.flatMap((region) => along(region, w, steep) ?? []);
}

/** The segment that a region lies along, if it is long and thin. */
function along(region: readonly number[], w: number, steep: Float32Array): Segment | undefined {
  const { mx, my, ux, uy, across } = axisOf(region, w, steep);
  let lo = Infinity;
  let hi = -Infinity;
  for (const k of region) {
    const p = ((k % w) - mx) * ux + (Math.floor(k / w) - my) * uy;
    lo = Math.min(lo, p);
    hi = Math.max(hi, p);
  }
  if (hi - lo < MIN_LENGTH_CELLS || across > 1.5 || region.length < (hi - lo) * 0.8)
    return undefined;
  return {
    x0: mx + ux * lo + 0.5,
    y0: my + uy * lo + 0.5,
    x1: mx + ux * hi + 0.5,
    y1: my + uy * hi + 0.5,
  };
}

/**
 * The line through a region's middle along which it spreads, and how far it spreads across it
 * (standard deviation, cells).
 */
export function axisOf(
  region: readonly number[],
  w: number,
  steep: Float32Array,
): { mx: number; my: number; ux: number; uy: number; across: number } {
  let sum = 0;
  let mx = 0;
  let my = 0;
  let xx = 0;
  let xy = 0;
  let yy = 0;
  for (const k of region) {
    const g = steep[k]!;
    sum += g;
    mx += g * (k % w);
    my += g * Math.floor(k / w);
  }
  mx /= sum;
  my /= sum;
  for (const k of region) {
    const g = steep[k]!;
    const x = (k % w) - mx;
    const y = Math.floor(k / w) - my;
    xx += g * x * x;
    xy += g * x * y;
    yy += g * y * y;
  }
  const t = 0.5 * Math.atan2(2 * xy, xx - yy);
  const ux = Math.cos(t);
  const uy = Math.sin(t);
  return {
    mx,
    my,
    ux,
    uy,
    across: Math.sqrt(Math.max(0, (xx * uy * uy - 2 * xy * ux * uy + yy * ux * ux) / sum)),
  };
}
