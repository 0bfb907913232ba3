import type { Heap } from "../../kernels/heap";
import { boxRows } from "../raster/boxMean";
import { denoise } from "./denoise";
import { deconvolutionReach, deconvolve, rangeRows } from "./deconvolve";
import type { Finish, SceneNoise } from "./finish";
import { scaleDetail } from "./scaleDetail";

/** A part of a raster, px. */
export interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Planes of which a neighbourhood is made: R, G, B and, for noise by weights, those. */
export interface NeighbourhoodSource {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
}

/** What of a pixel's neighbourhood the parts of a finish need, each a plane. */
export interface NeighbourhoodPlan {
  /** light without noise, three planes */
  clean: boolean;
  /** EV of deconvolution, by radius and edges */
  sharp: readonly { radius: number; edges: number }[];
  /** EV of texture of two scales */
  fine: boolean;
  small: boolean;
  /** how near a strong edge, by reach */
  rims: readonly number[];
}

/** Scales of texture at full size, px. */
export const FINE_PX = 2;
export const SMALL_PX = 8;
/** Px that any neighbourhood reaches at most. */
const LARGEST_MARGIN = 48;

const distinct = <T>(values: readonly T[]): T[] => [
  ...new Map(values.map((value) => [JSON.stringify(value), value])).values(),
];

/** What the parts of a finish need of neighbourhoods. */
export function neighbourhoodPlan({ parts }: Pick<Finish, "parts">): NeighbourhoodPlan {
  const sets = parts.map((part) => part.adjustments);
  return {
    clean: sets.some((s) => s.noiseReduction > 0 || s.colourNoise > 0),
    sharp: distinct(
      sets
        .filter((s) => s.sharpening > 0)
        .map((s) => ({ radius: s.sharpeningRadius, edges: s.sharpeningEdges })),
    ),
    fine: sets.some((s) => s.fine !== 0),
    small: sets.some((s) => s.small !== 0),
    rims: distinct(
      sets.filter((s) => s.purpleFringe > 0 || s.greenFringe > 0).map((s) => s.fringeReach),
    ),
  };
}

/** How many planes a plan has. */
export const neighbourhoodPlanes = ({
  clean,
  sharp,
  fine,
  small,
  rims,
}: NeighbourhoodPlan): number =>
  (clean ? 3 : 0) + sharp.length + Number(fine) + Number(small) + rims.length;

/** Where the planes of a plan begin, in planes. */
export function planesOf(plan: NeighbourhoodPlan): {
  sharp: number;
  fine: number;
  small: number;
  rims: number;
} {
  const sharp = plan.clean ? 3 : 0;
  const fine = sharp + plan.sharp.length;
  const small = fine + Number(plan.fine);
  return { sharp, fine, small, rims: small + Number(plan.small) };
}

/** Px round a block of noise reduction that it is made from, in both passes. */
const CLEAN_MARGIN = 16;

/** Px round a tile that its planes are made from: what each of them reaches, after noise reduction. */
export function neighbourhoodMargin(plan: NeighbourhoodPlan): number {
  const reaches = [
    ...plan.sharp.map(({ radius }) => deconvolutionReach(radius)),
    // a guided filter is a mean of means
    plan.small ? 2 * SMALL_PX + 4 : 0,
    plan.fine ? 2 * FINE_PX + 4 : 0,
    ...plan.rims.map((reach) => Math.ceil(reach) + 2),
  ];
  const margin = (plan.clean ? CLEAN_MARGIN : 0) + Math.max(0, ...reaches);
  return Math.min(LARGEST_MARGIN, margin);
}

/** Bytes of scratch for the neighbourhoods of a tile. */
export const neighbourhoodScratch = (width: number, height: number): number =>
  (width + 2 * LARGEST_MARGIN) * (height + 2 * LARGEST_MARGIN) * 4 * 26 + (1 << 18);

/** How far apart an edge's sides are in EV where rims begin to show, and where they do fully. */
const RIM_FROM_EV = 0.8;
const RIM_TO_EV = 2;

/**
 * Fills the planes of a plan for a tile of a scene.
 *
 * @param scale   px of the scene a full-size px takes: what is smaller than a px of it is not there
 * @param lowest  light below which there is none, linear
 * @param dst     address of the tile's planes, `planeBytes` apart, `stride` floats a row
 */
export function neighbourhoods(
  heap: Heap,
  scene: NeighbourhoodSource,
  plan: NeighbourhoodPlan,
  { scale, noise, lowest }: { scale: number; noise: SceneNoise | undefined; lowest: number },
  tile: Tile,
  dst: number,
  planeBytes: number,
  stride: number,
): void {
  const mark = heap.mark();
  const margin = neighbourhoodMargin(plan);
  const around = widened(tile, margin, scene);
  const n = around.width * around.height;
  const bytes = n * 4 + 64;
  const planes = copyPlanes(heap, scene, around, bytes, noise?.byWeights ? 4 : 3);
  const sigma = noise ? heap.alloc(bytes) : 0;
  if (noise) noisePlane(heap, planes, bytes, n, noise, sigma);
  const copyOut = (from: number, plane: number): void => {
    for (let y = 0; y < tile.height; y++)
      heap
        .f32(dst + plane * planeBytes + y * stride * 4, tile.width)
        .set(
          heap.f32(
            from + ((y + tile.y - around.y) * around.width + tile.x - around.x) * 4,
            tile.width,
          ),
        );
  };
  let light = planes;
  if (plan.clean && noise) {
    light = denoise(heap, planes, bytes, sigma, around, noise);
    for (let c = 0; c < 3; c++) copyOut(light + c * bytes, c);
  } else if (plan.clean) for (let c = 0; c < 3; c++) copyOut(planes + c * bytes, c);
  const logLight = heap.alloc(bytes);
  heap.k.logLight(light, bytes, n, lowest, logLight);
  const noiseEv = sigma && !plan.clean ? noiseInEv(heap, sigma, logLight, n, noise!) : 0;
  const at = planesOf(plan);
  plan.sharp.forEach((how, i) => {
    const inner = heap.mark();
    copyOut(deconvolve(heap, light, bytes, logLight, noiseEv, around, how, scale), at.sharp + i);
    heap.release(inner);
  });
  if (plan.fine || plan.small) {
    const { fine, small } = scaleDetail(
      heap,
      logLight,
      noiseEv,
      around,
      FINE_PX * scale,
      SMALL_PX * scale,
    );
    if (plan.fine) copyOut(fine, at.fine);
    if (plan.small) copyOut(small, at.small);
  }
  plan.rims.forEach((reach, i) => {
    const inner = heap.mark();
    copyOut(nearEdges(heap, logLight, around, Math.max(1, Math.round(reach * scale))), at.rims + i);
    heap.release(inner);
  });
  heap.release(mark);
}

/** A tile with px round it, as far as the raster goes. */
function widened(tile: Tile, by: number, { width, height }: NeighbourhoodSource): Tile {
  const x = Math.max(0, tile.x - by);
  const y = Math.max(0, tile.y - by);
  return {
    x,
    y,
    width: Math.min(width, tile.x + tile.width + by) - x,
    height: Math.min(height, tile.y + tile.height + by) - y,
  };
}

/** Copies a tile's planes into scratch. @returns their address, `bytes` apart */
function copyPlanes(
  heap: Heap,
  scene: NeighbourhoodSource,
  tile: Tile,
  bytes: number,
  count: number,
): number {
  const to = heap.alloc(bytes * count);
  for (let c = 0; c < count; c++)
    for (let y = 0; y < tile.height; y++)
      heap
        .f32(to + c * bytes + y * tile.width * 4, tile.width)
        .set(
          heap.f32(
            scene.ptr + c * scene.planeBytes + ((tile.y + y) * scene.width + tile.x) * 4,
            tile.width,
          ),
        );
  return to;
}

/** Each pixel's noise against that of the model, standard deviations. */
function noisePlane(
  heap: Heap,
  planes: number,
  bytes: number,
  n: number,
  { perUnit, read2, factor, byWeights }: SceneNoise,
  to: number,
): void {
  if (byWeights) heap.k.noiseRow(planes, bytes, planes + 3 * bytes, n, perUnit, read2, factor, to);
  else heap.f32(to, n).fill(factor);
}

/** Each pixel's noise in EV. @returns its address in scratch */
function noiseInEv(
  heap: Heap,
  sigma: number,
  logLight: number,
  n: number,
  { perUnit, read2 }: SceneNoise,
): number {
  const to = heap.alloc(n * 4 + 64);
  heap.k.noiseEv(sigma, logLight, n, perUnit, read2, to);
  return to;
}

/** How near each pixel is to an edge strong enough for coloured rims. */
function nearEdges(heap: Heap, logLight: number, { width, height }: Tile, reach: number): number {
  const n = width * height;
  const out = heap.alloc(n * 4 + 64);
  const mark = heap.mark();
  const least = heap.alloc(n * 4 + 64);
  const most = heap.alloc(n * 4 + 64);
  const rows = heap.alloc(rangeRows(width));
  heap.k.localRange(logLight, width, height, rows, least, most);
  heap.k.edgeShare(least, most, n, RIM_FROM_EV, RIM_TO_EV);
  heap.k.boxMean(least, width, height, reach, heap.alloc(boxRows(width)), out, 0, height);
  // an edge is seen by a row of cells: as many as the window is wide count fully
  heap.k.scaleWithin(out, n, (2 * reach + 1) / 2, 0, 1);
  heap.release(mark);
  return out;
}
