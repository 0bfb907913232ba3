import type { Heap } from "../../../kernels/heap";
import { clamp } from "../../math/clamp";
import { quantiles } from "../../math/quantiles";
import { encode, SPACES } from "../../colour/spaces";
import { boxMean } from "../../raster/boxMean";
import type { ToneGrid } from "../toneGrid";

/** Middle grey, EV from display white. */
const MIDDLE_EV = Math.log2(0.18);
/** Where lights begin to be drawn in, and where the lightest come to lie, so that texture has room. */
const KNEE_EV = Math.log2(0.38);
const TOP_EV = Math.log2(0.66);
/** What is lightest of all comes to lie here at least: white, after the roll-off. */
const WHITE_EV = 0.45;
/** Where the darkest and the lightest hundredth come to lie where they would not reach so far. */
const DARK_END_EV = -6.6;
const LIGHT_END_EV = -0.3;
/** How much steeper a flat scene is made at most. */
const STEEPEST = 1.45;
/**
 * Mean standard deviation of brightness in small windows, of 255, that pictures of nature have at
 * least; texture is lifted towards it, so far at most.
 * @see Yeganeh and Wang, "Objective quality assessment of tone-mapped images", TIP 2013 (naturalness)
 */
const NATURAL_CONTRAST = 16;
const LARGEST_LIFT = 1;
/** Mean brightness of such pictures, of 255, and how far the picture follows it. */
const NATURAL_MEAN = 116;
const BRIGHTENING = 0.75;
const DISPLAY_GAMMA = 2.2;

/**
 * Quantiles of a toned plane over the cells that are not black: how much of a picture shows nothing
 * does not say how bright the rest is.
 */
export function quantilesOfLit(
  heap: Heap,
  grid: ToneGrid,
  plane: number,
  shares: readonly number[],
): number[] {
  const n = grid.width * grid.height;
  const mark = heap.mark();
  const source = heap.f32(grid.ptr, n);
  const toned = heap.f32(plane, n);
  const at = heap.alloc(n * 4 + 16);
  const lit = heap.f32(at, n);
  let count = 0;
  for (let i = 0; i < n; i++) if (source[i]! > grid.floorEv) lit[count++] = toned[i]!;
  const found = count ? quantiles(heap, at, count, shares) : shares.map(() => MIDDLE_EV);
  heap.release(mark);
  return found;
}

/** The mid-tones of a plane, EV. */
function middleOf(heap: Heap, grid: ToneGrid, plane: number): number {
  const [q25, q50, q90] = quantilesOfLit(heap, grid, plane, [0.25, 0.5, 0.9]) as [
    number,
    number,
    number,
  ];
  return 0.65 * q50 + (0.35 * (q25 + q90)) / 2;
}

/** EV by which the mid-tones are moved at most from where the reference frame has them. */
const FARTHEST_EV = 2.2;
/**
 * Mid-tones to just under middle grey; never far from what the photographer's reference frame
 * showed.
 */
export function keyOf(heap: Heap, grid: ToneGrid, plane: number): number {
  const toned = middleOf(heap, grid, plane);
  const frame = middleOf(heap, grid, grid.ptr);
  const wanted = clamp(MIDDLE_EV - 0.1, frame - FARTHEST_EV, frame + FARTHEST_EV);
  return wanted - toned;
}

/** How much steeper darks and lights are made so that they reach the display's ends. */
function steepnessOf(dark: number, light: number): { darks: number; lights: number } {
  return {
    darks: clamp((MIDDLE_EV - DARK_END_EV) / Math.max(0.5, MIDDLE_EV - dark), 1, STEEPEST),
    lights: clamp((LIGHT_END_EV - MIDDLE_EV) / Math.max(0.3, light - MIDDLE_EV), 1, STEEPEST),
  };
}

/**
 * Raises a plane to its place: the mid-tones to the middle, a flat scene steepened until it has
 * black and white, and what would lie above display white drawn in from KNEE_EV on. All that is done
 * to the light around a place, and its texture on top of it is kept, so that a window keeps the
 * contrast of its view; where texture as a whole is less than natural, it is lifted.
 *
 * @param base  the light around, which is changed too
 */
export function place(heap: Heap, grid: ToneGrid, plane: number, base: number): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const key = keyOf(heap, grid, plane);
  const v = heap.f32(plane, n);
  for (let i = 0; i < n; i++) v[i]! += key;
  const around = heap.f32(base, n);
  for (let i = 0; i < n; i++) around[i]! += key;
  const [dark, light, top] = quantilesOfLit(heap, grid, base, [0.01, 0.99, 0.998]) as [
    number,
    number,
    number,
  ];
  const { darks, lights } = steepnessOf(dark, light);
  const highest = MIDDLE_EV + (top - MIDDLE_EV) * lights;
  const pull = highest > TOP_EV ? (TOP_EV - KNEE_EV) / (highest - KNEE_EV) : 1;
  const placed = (ev: number): number => {
    const from = ev - MIDDLE_EV;
    const steep = MIDDLE_EV + from * (from < 0 ? darks : lights);
    return Math.min(steep, KNEE_EV) + Math.max(0, steep - KNEE_EV) * pull;
  };
  for (let i = 0; i < n; i++) {
    const own = around[i]!;
    const texture = v[i]! - own;
    around[i] = placed(own);
    v[i] = texture;
  }
  const lift = 1 + liftTo(heap, plane, base, w, h);
  for (let i = 0; i < n; i++) v[i] = around[i]! + v[i]! * lift;
  whitenLightest(heap, grid, plane, around);
  const brighter = brighteningTo(v);
  for (let i = 0; i < n; i++) v[i]! += brighter * roomAbove(v[i]!);
}

/**
 * Raises what is lightest to white, where no texture reaches so far: a sheet of paper in the sun or a
 * sky that every frame has clipped is white, and not the grey that leaves room for texture.
 */
function whitenLightest(heap: Heap, grid: ToneGrid, plane: number, around: Float32Array): void {
  const [lightest] = quantilesOfLit(heap, grid, plane, [0.997]) as [number];
  const missing = clamp(WHITE_EV - lightest, 0, WHITE_EV - TOP_EV);
  if (!missing || lightest < KNEE_EV) return;
  const v = heap.f32(plane, around.length);
  for (let i = 0; i < v.length; i++)
    v[i]! += missing * clamp((around[i]! - KNEE_EV) / (TOP_EV - KNEE_EV), 0, 1);
}

/** How far a tone follows when the picture is made brighter: the lights less, or they would be lost. */
const roomAbove = (ev: number): number => clamp((TOP_EV - ev) / (TOP_EV - MIDDLE_EV), 0.25, 1);

/** EV by which a picture is made brighter or darker so that its mean is nature's, in part. */
function brighteningTo(shown: Float32Array): number {
  const { curve } = SPACES.srgb;
  let sum = 0;
  for (const ev of shown) sum += 255 * encode(curve, Math.min(1, 2 ** ev));
  const mean = sum / shown.length;
  return clamp(
    BRIGHTENING * Math.log2(NATURAL_MEAN / Math.max(1, mean)) * DISPLAY_GAMMA,
    -0.6,
    0.6,
  );
}

/** By how much texture is lifted so that small windows have as much contrast as nature's. */
function liftTo(heap: Heap, texture: number, base: number, w: number, h: number): number {
  const n = w * h;
  const mark = heap.mark();
  const shown = heap.alloc(n * 4 + 64);
  const squares = heap.alloc(n * 4 + 64);
  const values = heap.f32(shown, n);
  const detail = heap.f32(texture, n);
  const around = heap.f32(base, n);
  const { curve } = SPACES.srgb;
  for (let i = 0; i < n; i++)
    values[i] = 255 * encode(curve, Math.min(1, 2 ** (around[i]! + detail[i]!)));
  heap.k.squares(shown, n, squares);
  // about as large as a hundredth of the picture
  const radius = Math.max(1, Math.round(Math.max(w, h) / 220));
  const mean = heap.f32(boxMean(heap, shown, w, h, radius), n);
  const square = heap.f32(boxMean(heap, squares, w, h, radius), n);
  let sum = 0;
  for (let i = 0; i < n; i++) sum += Math.sqrt(Math.max(0, square[i]! - mean[i]! ** 2));
  const contrast = sum / n;
  heap.release(mark);
  return clamp(NATURAL_CONTRAST / Math.max(1, contrast) - 1, 0, LARGEST_LIFT);
}
