import type { Heap } from "../../kernels/heap";
import { smoothstep } from "../math/smoothstep";
import { guidedFilter } from "../raster/guidedFilter";
import { BASIS_PLANES } from "../tone/toneBasis";
import { liftAt, type ToneField } from "../tone/toneField";
import type { ToneGrid } from "../tone/toneGrid";
import type { Adjustments } from "./adjustments";
import type { GridLines } from "./finish";
import { fitLines } from "./lines";
import { scaleDetail } from "./scaleDetail";

const MIDDLE_EV = Math.log2(0.18);
/** EV by which dark or light areas are moved at most, and over which that fades in. */
const LARGEST_MOVE_EV = 1.3;
const FADE_EV = 3.6;
/** EV below display white at which the darkest of the zones begins. */
const DARKEST_ZONE_EV = -8;
/** Radii of the middle and the coarse scale, shares of the longer edge. */
export const MEDIUM_SHARE = 32 / 6000;
export const COARSE_SHARE = 128 / 6000;
/** Twice the texture at most. */
const STRONGEST = 1.6;

/** Smooth from 0 at no distance to 1 at `FADE_EV` and beyond. */
const fade = (ev: number): number => smoothstep(ev / FADE_EV);

/**
 * EV of all that a part's light does by the light around: darks, lights, zones, and texture of the
 * middle and coarse scales. As lines in log luminance, like the tone field, so that every size
 * shares them.
 *
 * @param tone   where the display has the scene
 * @param moved  EV by which the whole picture lies higher than that
 * @param at     where the lines go, `linesBytes` of the grid
 */
export function lightField(
  heap: Heap,
  grid: ToneGrid,
  basis: number,
  tone: ToneField,
  moved: number,
  set: Adjustments,
  at: number,
): GridLines {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const source = basis + BASIS_PLANES.light * n * 4;
  const light = heap.f32(source, n);
  const shown = heap.alloc(n * 4 + 64);
  shownLight(heap, light, tone, moved, shown);
  const values = heap.alloc(n * 4 + 64);
  const gain = heap.f32(values, n).fill(0);
  const longer = Math.max(w, h);
  // judged by the light around, so that texture keeps its contrast
  const base = heap.f32(
    guidedFilter(heap, shown, shown, w, h, Math.max(2, Math.round(longer * 0.02)), 0.4 ** 2),
    n,
  );
  for (let i = 0; i < n; i++) {
    const ev = base[i]!;
    let sum = set.darks * LARGEST_MOVE_EV * fade(MIDDLE_EV + 0.4 - ev);
    sum += set.lights * LARGEST_MOVE_EV * fade(ev - MIDDLE_EV + 0.2);
    gain[i] = sum + liftAt(set.zones, 1 - ev / DARKEST_ZONE_EV);
  }
  if (set.medium || set.coarse) {
    const { fine, small } = scaleDetail(
      heap,
      source,
      0,
      grid,
      Math.max(1, longer * MEDIUM_SHARE),
      Math.max(2, longer * COARSE_SHARE),
    );
    const [medium, coarse] = [heap.f32(fine, n), heap.f32(small, n)];
    const [m, c] = [detailFactor(set.medium), detailFactor(set.coarse)];
    for (let i = 0; i < n; i++) gain[i]! += m * medium[i]! + c * coarse[i]!;
  }
  const lines = fitLines(heap, values, source, w, h, at);
  heap.release(mark);
  return lines;
}

/** What a detail of -1 to 1 adds, as a factor on the texture. */
export const detailFactor = (detail: number): number => (detail < 0 ? detail : detail * STRONGEST);

/** Where each cell lies on the display, EV from white. */
function shownLight(
  heap: Heap,
  light: Float32Array,
  tone: ToneField,
  moved: number,
  to: number,
): void {
  const n = light.length;
  const out = heap.f32(to, n);
  if (tone.width === 1) {
    for (let i = 0; i < n; i++) out[i] = light[i]! + moved;
    return;
  }
  const slopes = heap.f32(tone.slopes, n);
  const offsets = heap.f32(tone.offsets, n);
  for (let i = 0; i < n; i++) out[i] = light[i]! * (1 + slopes[i]!) + offsets[i]! + moved;
}
