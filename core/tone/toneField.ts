import type { Heap } from "../../kernels/heap";
import { boxMean } from "../raster/boxMean";
import { TONE_OPERATORS, type Operator } from "./operators/operators";
import { quantiles } from "../math/quantiles";
import { BASIS_PLANES, WINDOW } from "./toneBasis";
import type { ToneGrid } from "./toneGrid";
import { clamp } from "../math/clamp";
import { raiseHighlights } from "./raiseHighlights";
import { smoothstep } from "../math/smoothstep";

export interface ToneSettings {
  operator: "none" | "plain" | Operator;
  strength: number;
  detail: number;
  /** EV by which the scene's zones are lifted, from its darkest to its lightest fifth */
  lifts: readonly number[];
  /** EV by which the lightest and the darkest ends are moved */
  white: number;
  black: number;
  /** how far the display goes beyond white, EV; none if left out */
  headroom?: number;
}

/** The roll-off of highlights: where it starts, and what becomes as bright as the display goes. */
const SHOULDER = { shoulderStart: 0.7, white: 1.6 };
const NO_SHOULDER = { shoulderStart: 1, white: 1 };

/**
 * What the point-wise renderer needs: local gain in EV = slope * log2(Y) + offset on a grid, planes
 * in the heap, and the layout.
 */
export interface ToneField {
  width: number;
  height: number;
  slopes: number;
  offsets: number;
  /**
   * shoulder: where the roll-off starts and which linear value becomes white; start >= white means
   * none
   */
  shoulderStart: number;
  white: number;
  /**
   * light below which the scene is noise, linear: its logarithm is that of this, and no gain
   * brightens it; 0 where nothing is toned
   */
  floor: number;
}
/** Bytes of the gain field of a grid. */
export const toneFieldBytes = (grid: { width: number; height: number }): number =>
  grid.width * grid.height * 8;
export const ZONES = 5;

const MID = Math.log2(0.18);

/**
 * Where each part of the picture is placed between black and white: a tone operator, then the lifts
 * of the scene's zones and of its ends.
 *
 * The gain is written as a locally affine function of log luminance (as in guided filtering, He et
 * al., TPAMI 2013), which carries it to any size edge-true and point-wise: so the preview and the
 * full picture share one field. White balance comes after it and does not move it.
 *
 * @param basis  address of what `toneBasis` made of the grid
 * @param at     where the field's two planes go, with room for `toneFieldBytes` of the grid
 */
export function toneField(
  heap: Heap,
  grid: ToneGrid,
  basis: number,
  settings: ToneSettings,
  at: number,
): ToneField {
  const { width: w, height: h } = grid;
  const n = w * h;
  const { operator, lifts, white, black, headroom = 0 } = settings;
  const toned = operator !== "none" && operator !== "plain";
  const lifted = lifts.some((v) => v !== 0);
  const shoulder = toned || headroom > 0 ? SHOULDER : NO_SHOULDER;
  const moved = operator !== "none" && (white !== 0 || black !== 0 || lifted);
  if (!toned && !moved) {
    heap.f32(at, 2).fill(0);
    return {
      width: 1,
      height: 1,
      slopes: at,
      offsets: at + 4,
      ...shoulder,
      floor: 0,
    };
  }
  const mark = heap.mark();
  const gain = heap.alloc(n * 4 + 16);
  const product = heap.alloc(n * 4 + 16);
  const T = heap.f32(gain, n);
  const L = heap.f32(basis + BASIS_PLANES.light * n * 4, n);
  if (toned)
    TONE_OPERATORS[operator].run({
      heap,
      grid,
      basis,
      strength: settings.strength,
      detail: settings.detail,
      to: gain,
    });
  else T.set(L);
  if (lifted) {
    const [lo, hi] = quantiles(heap, grid.ptr, n, [0.001, 0.999]) as [number, number];
    const mean = heap.f32(basis + BASIS_PLANES.mean * n * 4, n);
    // by the light round about, so that a zone's own texture is lifted with it
    for (let i = 0; i < n; i++)
      T[i]! += liftAt(
        lifts,
        ((Math.abs(mean[i]! - L[i]!) < 0.7 ? mean[i]! : L[i]!) - lo) / Math.max(1e-3, hi - lo),
      );
  }
  if (white || black)
    for (let i = 0; i < n; i++) {
      const t = T[i]!;
      T[i] = t + white * clamp((t - MID) / -MID, 0, 1.2) + black * clamp((MID - t) / 7, 0, 1.2);
    }
  if (headroom > 0) raiseHighlights(T, L, headroom);
  const G = T;
  const P = heap.f32(product, n);
  for (let i = 0; i < n; i++) {
    G[i]! -= L[i]!;
    P[i] = G[i]! * L[i]!;
  }
  // least squares of gain on log luminance in small windows, then averaged, as in the guided filter
  const plane = (i: number): number => basis + i * n * 4;
  const offsets = boxMean(heap, gain, w, h, WINDOW);
  const slopes = boxMean(heap, product, w, h, WINDOW);
  heap.k.gainLine(offsets, slopes, plane(BASIS_PLANES.mean), plane(BASIS_PLANES.variance), n, 0.02);
  heap.f32(at, n).set(heap.f32(boxMean(heap, slopes, w, h, 2), n));
  heap.f32(at + n * 4, n).set(heap.f32(boxMean(heap, offsets, w, h, 2), n));
  heap.release(mark);
  return {
    width: w,
    height: h,
    slopes: at,
    offsets: at + n * 4,
    ...shoulder,
    floor: 2 ** grid.floorEv,
  };
}

/**
 * The lift at a place of the scene's range, 0 darkest to 1 lightest: smooth between the middles of
 * the zones.
 */
export function liftAt(lifts: readonly number[], place: number): number {
  const p = clamp(place * ZONES - 0.5, 0, ZONES - 1);
  const i = Math.min(ZONES - 2, Math.floor(p));
  const t = p - i;
  const s = smoothstep(t);
  return lifts[i]! * (1 - s) + lifts[i + 1]! * s;
}
