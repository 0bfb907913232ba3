import type { Heap } from "../../kernels/heap";
import type { Rectangle } from "../raster/largestRectangle";
import { clone } from "./clone";
import { fill, fillReach, fillRegion, fillScratch, union } from "./fill";
import { heal } from "./heal";
import { bestSource, healReach, rimOf } from "./healSources";
import { ScenePlanes, type PlacedRows } from "./logWindow";
import { boundsOf, halfWidth, placeShape, sourceIn, type Repair } from "./repair";

interface Size {
  width: number;
  height: number;
}

/** px beyond a clone's border that it may change. */
const CHANGED_BEYOND = 2;

/** What of a picture a repair may change, px. */
export function changedBy(repair: Repair, size: Size): Rectangle {
  const shape = placeShape(repair.shape, size);
  // where nothing is alike, healing fills
  const rim = repair.kind === "clone" ? CHANGED_BEYOND : fillReach(halfWidth(shape)) / 4;
  return boundsOf(shape, Math.ceil(rim), size);
}

/** What of a picture a repair has to know, px. */
export function readBy(repair: Repair, size: Size): Rectangle {
  const shape = placeShape(repair.shape, size);
  const chosen = sourceIn(repair, size);
  if (repair.kind === "fill") return fillRegion(shape, size, chosen);
  const reach = healReach(halfWidth(shape));
  const round = boundsOf(shape, Math.max(2 * reach, fillReach(halfWidth(shape))), size);
  if (!chosen) return round;
  const { dx, dy } = chosen;
  const there = { ...shape, points: shape.points.map(([x, y]) => [x + dx, y + dy] as const) };
  return union(round, boundsOf(there, rimOf(halfWidth(shape)), size));
}

/** Bytes of scratch that a repair takes. */
export function repairScratch(repair: Repair, size: Size): number {
  if (repair.kind === "clone") return 1 << 16;
  const shape = placeShape(repair.shape, size);
  return fillScratch(fillRegion(shape, size, sourceIn(repair, size)));
}

/**
 * Puts a place of a scene right, in place.
 *
 * @param rows  of the scene, at least those of `readBy`
 * @param size  of the whole picture at the scene's scale
 * @returns where it takes from, shares of width and height; undefined where that is no one place
 */
export function applyRepair(
  heap: Heap,
  rows: PlacedRows,
  repair: Repair,
  size: Size,
): { dx: number; dy: number } | undefined {
  const planes = new ScenePlanes(heap, rows);
  const shape = placeShape(repair.shape, size);
  const chosen = sourceIn(repair, size);
  const shares = (source: { dx: number; dy: number } | undefined) =>
    source && { dx: source.dx / size.width, dy: source.dy / size.height };
  if (repair.kind === "fill") {
    fill(heap, planes, shape, size, chosen);
    return repair.source;
  }
  if (repair.kind === "heal") return shares(heal(heap, planes, shape, size, chosen));
  const source = chosen ?? bestSource(planes, shape, size);
  if (!source) return undefined;
  clone(planes, shape, size, source, repair.softness);
  return shares(source);
}
