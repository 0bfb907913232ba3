import type { Measured } from "./measureBending";
import type { RootPlanes } from "./roots";
import { clamp } from "../math/clamp";

/**
 * Half the side of a place that is compared, px; how far apart they lie; how far colours are looked
 * for from each other, px.
 */
const HALF_SIDE_PX = 14;
const SPACING_PX = 32;
const MAX_SHIFT_PX = 4;
const SHIFT_STEP_PX = 0.5;
/**
 * Contrast of green that tells, as a standard deviation of its slopes; likeness of the two colours
 * that is believed.
 */
const MIN_CONTRAST = 5;
const MIN_LIKENESS = 0.92;
/** Fewer places may err together. */
const MIN_PLACES = 16;

/**
 * How much larger a colour is drawn than green, from edges all over the frame: at each place the
 * shift outwards under which the two correlate best.
 *
 * @returns in 1/10000, as `Preparation` has it; undefined where too few places tell
 */
export function measureFringe(
  { width: w, height: h, g }: RootPlanes,
  colour: Uint8Array,
): Measured | undefined {
  const found: { ratio: number; weight: number }[] = [];
  const cx = w / 2;
  const cy = h / 2;
  const nearest = 0.25 * Math.hypot(cx, cy);
  const round = HALF_SIDE_PX + MAX_SHIFT_PX + 2;
  for (let y = round + SPACING_PX / 2; y < h - round; y += SPACING_PX)
    for (let x = round + SPACING_PX / 2; x < w - round; x += SPACING_PX) {
      const dx = x - cx;
      const dy = y - cy;
      const r = Math.hypot(dx, dy);
      if (r < nearest || !tells(g, w, x, y, dx / r, dy / r)) continue;
      const shift = bestShift(g, colour, w, x, y, dx / r, dy / r);
      if (shift) found.push({ ratio: shift.by / r, weight: r * shift.likeness });
    }
  if (found.length < MIN_PLACES) return undefined;
  const middle = weightedMedian(found);
  const off = weightedMedian(
    found.map((f) => ({ ratio: Math.abs(f.ratio - middle), weight: f.weight })),
  );
  const deviation = (1.48 * off * 1.25) / Math.sqrt(found.length);
  return {
    value: Math.abs(middle) < Math.max(3 * deviation, 0.3e-4) ? 0 : clamp(middle * 1e4, -30, 30),
    deviation: deviation * 1e4,
    of: found.length,
  };
}

/** Whether green changes enough along the way outwards, and nothing is clipped or black. */
function tells(g: Uint8Array, w: number, x: number, y: number, ux: number, uy: number): boolean {
  let n = 0;
  let sum = 0;
  let square = 0;
  let low = 255;
  let high = 0;
  for (let b = -HALF_SIDE_PX; b <= HALF_SIDE_PX; b += 2)
    for (let a = -HALF_SIDE_PX; a <= HALF_SIDE_PX; a += 2) {
      const i = Math.floor(y + b) * w + Math.floor(x + a);
      const v = g[i]!;
      const d = g[i + Math.round(uy * 2) * w + Math.round(ux * 2)]! - v;
      low = Math.min(low, v);
      high = Math.max(high, v);
      n++;
      sum += d;
      square += d * d;
    }
  return low > 8 && high < 247 && Math.sqrt(square / n - (sum / n) ** 2) > MIN_CONTRAST;
}

/**
 * How far outwards the colour has to be taken from to be most like green; undefined where it never
 * is.
 */
function bestShift(
  g: Uint8Array,
  colour: Uint8Array,
  w: number,
  x: number,
  y: number,
  ux: number,
  uy: number,
): { by: number; likeness: number } | undefined {
  const likeness: number[] = [];
  for (let s = -MAX_SHIFT_PX; s <= MAX_SHIFT_PX; s += SHIFT_STEP_PX) {
    const ox = Math.floor(ux * s);
    const oy = Math.floor(uy * s);
    const fx = ux * s - ox;
    const fy = uy * s - oy;
    let n = 0;
    let sa = 0;
    let sb = 0;
    let aa = 0;
    let bb = 0;
    let ab = 0;
    for (let v = -HALF_SIDE_PX; v <= HALF_SIDE_PX; v++)
      for (let u = -HALF_SIDE_PX; u <= HALF_SIDE_PX; u++) {
        const i = Math.floor(y + v) * w + Math.floor(x + u);
        const k = i + oy * w + ox;
        const q =
          (colour[k]! * (1 - fx) + colour[k + 1]! * fx) * (1 - fy) +
          (colour[k + w]! * (1 - fx) + colour[k + w + 1]! * fx) * fy;
        const p = g[i]!;
        n++;
        sa += p;
        sb += q;
        aa += p * p;
        bb += q * q;
        ab += p * q;
      }
    const va = aa - (sa * sa) / n;
    const vb = bb - (sb * sb) / n;
    likeness.push(va > 1 && vb > 1 ? (ab - (sa * sb) / n) / Math.sqrt(va * vb) : 0);
  }
  const at = likeness.indexOf(Math.max(...likeness));
  const [p, q, r] = [likeness[at - 1], likeness[at]!, likeness[at + 1]];
  if (q < MIN_LIKENESS || p === undefined || r === undefined) return undefined;
  const bend = p - 2 * q + r;
  return {
    by:
      -MAX_SHIFT_PX +
      SHIFT_STEP_PX * (at + (bend < 0 ? clamp((0.5 * (p - r)) / bend, -0.5, 0.5) : 0)),
    likeness: (q - MIN_LIKENESS) / (1 - MIN_LIKENESS),
  };
}

function weightedMedian(all: readonly { ratio: number; weight: number }[]): number {
  const sorted = [...all].sort((a, b) => a.ratio - b.ratio);
  const total = sorted.reduce((s, f) => s + f.weight, 0);
  let sum = 0;
  for (const f of sorted) {
    sum += f.weight;
    if (sum >= total / 2) return f.ratio;
  }
  return 0;
}
