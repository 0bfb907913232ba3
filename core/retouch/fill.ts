import type { Heap } from "../../kernels/heap";
import {
  fillRows,
  makePatchwork,
  patchworkAt,
  patchworkScratch,
} from "../panorama/fill/fillUncovered";
import { planeBytesOf, type Accumulator } from "../raster/accumulator";
import type { Rectangle } from "../raster/largestRectangle";
import { borderLight } from "./borderLight";
import { LogScale, type ScenePlanes } from "./logWindow";
import { boundsOf, halfWidth, type PlacedShape } from "./repair";
import { depthInside } from "./repairMask";

interface Size {
  width: number;
  height: number;
}

/** Long edge of the small copy on which patches are found, cells. */
const PATCHWORK_EDGE = 400;
/** px round a shape that patches come from, in half-widths; and at least, px. */
const SURROUND = 2.2;
const LEAST_SURROUND = 48;
/** Cells over which what was made up goes over into the picture, and how far out that ends. */
const BLENDED_CELLS = 2;
const BLEND_ENDS = 2.5;
/** Steps of light that nobody sees. */
const LEAST_STEP_EV = 1e-4;
/** Cells round a shape that are written back. */
const RIM_CELLS = 3;
/** What the fill calls covered; covered, but no place to take from; and empty. */
const FREE = 1;
const KEPT = 0.75;
const EMPTY = 0;

/** px round a shape that filling may read, where it takes from what lies round it. */
export const fillReach = (radius: number): number =>
  Math.max(LEAST_SURROUND, Math.ceil(radius * SURROUND));

/** Where a fill looks: round the shape, and round the place it is to take from. */
export function fillRegion(
  shape: PlacedShape,
  size: Size,
  chosen: { dx: number; dy: number } | undefined,
): Rectangle {
  const round = boundsOf(shape, fillReach(halfWidth(shape)), size);
  return chosen ? union(round, chosenRegion(shape, size, chosen)) : round;
}

/** px that a cell of the small copy takes. */
const cellOf = (region: Rectangle): number =>
  region.width / patchworkAt(0, region, PATCHWORK_EDGE).width;

/** px round a shape that filling may change. */
export const fillRim = (
  shape: PlacedShape,
  size: Size,
  chosen: { dx: number; dy: number } | undefined,
): number => Math.ceil(RIM_CELLS * cellOf(fillRegion(shape, size, chosen)));

/** The surroundings of a chosen source. */
function chosenRegion(
  shape: PlacedShape,
  size: Size,
  { dx, dy }: { dx: number; dy: number },
): Rectangle {
  const there = { ...shape, points: shape.points.map(([x, y]) => [x + dx, y + dy] as const) };
  return boundsOf(there, halfWidth(shape), size);
}

/** The least rectangle round two. */
export function union(a: Rectangle, b: Rectangle): Rectangle {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}

/** Bytes of scratch that filling takes. */
export function fillScratch(region: Rectangle): number {
  const patchwork = patchworkAt(0, region, PATCHWORK_EDGE);
  return (
    planeBytesOf(region.width, region.height) * 4 +
    patchwork.bytes +
    patchworkScratch(patchwork) +
    (1 << 16)
  );
}

/**
 * Makes a place up of patches of what lies round it, or round a chosen place.
 *
 * @param planes  the scene, changed in place
 * @param size    of the whole picture
 * @see `patchFill`
 */
export function fill(
  heap: Heap,
  planes: ScenePlanes,
  shape: PlacedShape,
  size: Size,
  chosen: { dx: number; dy: number } | undefined,
): void {
  const region = fillRegion(shape, size, chosen);
  if (!region.width || !region.height) return;
  const free = chosen && chosenRegion(shape, size, chosen);
  const depth = depthInside(shape, region);
  const mark = heap.mark();
  const copy = copied(heap, planes, region, depth, free);
  const patchwork = patchworkAt(0, region, PATCHWORK_EDGE);
  const at = heap.alloc(patchwork.bytes);
  const placed = patchworkAt(at, region, PATCHWORK_EDGE);
  makePatchwork(heap, copy, placed);
  fillRows(heap, copy, placed, 0, region.height);
  const cell = cellOf(region);
  evenOut(heap, copy, depth, cell, new LogScale(planes.meanLight(region)));
  putBack(heap, planes, region, depth, copy, RIM_CELLS * cell);
  heap.release(mark);
}

const within = (r: Rectangle, x: number, y: number): boolean =>
  x >= r.x && y >= r.y && x < r.x + r.width && y < r.y + r.height;

/** The region on its own, empty where the shape is. */
function copied(
  heap: Heap,
  planes: ScenePlanes,
  region: Rectangle,
  depth: Float32Array,
  free: Rectangle | undefined,
): Accumulator {
  const { width, height } = region;
  const planeBytes = planeBytesOf(width, height);
  const copy = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width, height };
  const to = [0, 1, 2, 3].map((c) => heap.f32(copy.ptr + c * planeBytes, width * height));
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const at = planes.indexOf(region.x + x, region.y + y);
      const covered = at >= 0 && planes.weight[at]! > 0;
      for (let c = 0; c < 3; c++) to[c]![i] = covered ? planes.colours[c]![at]! : 0;
      if (!covered || depth[i]! > -0.5) to[3]![i] = EMPTY;
      else to[3]![i] = !free || within(free, region.x + x, region.y + y) ? FREE : KEPT;
    }
  return copy;
}

/** Brings what was made up into the light round it. */
function evenOut(
  heap: Heap,
  { ptr, planeBytes, width, height }: Accumulator,
  depth: Float32Array,
  cell: number,
  scale: LogScale,
): void {
  for (let c = 0; c < 3; c++) {
    const plane = heap.f32(ptr + c * planeBytes, width * height);
    const value = plane.map((light) => scale.of(light));
    const light = borderLight(value, depth, width, height, cell);
    for (let i = 0; i < value.length; i++) {
      const share = Math.min(1, (depth[i]! / cell + BLEND_ENDS) / BLENDED_CELLS);
      if (share > 0 && Math.abs(light[i]!) > LEAST_STEP_EV)
        plane[i] = scale.light(value[i]! + share * light[i]!);
    }
  }
}

/** Writes what was made up, with the rim over which it goes over into the picture. */
function putBack(
  heap: Heap,
  planes: ScenePlanes,
  region: Rectangle,
  depth: Float32Array,
  copy: Accumulator,
  rim: number,
): void {
  const { width, height } = region;
  const from = [0, 1, 2].map((c) => heap.f32(copy.ptr + c * copy.planeBytes, width * height));
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const at = planes.indexOf(region.x + x, region.y + y);
      if (at < 0 || depth[i]! < -rim) continue;
      for (let c = 0; c < 3; c++) planes.colours[c]![at] = from[c]![i]!;
      if (!(planes.weight[at]! > 0)) planes.weight[at] = FREE;
    }
}
