import type { Heap } from "../../kernels/heap";
import type { Rectangle } from "../raster/largestRectangle";
import { clone } from "./clone";
import { fill, fillReach, fillRegion, fillRim, fillScratch, union } from "./fill";
import { heal } from "./heal";
import { bestSource, healReach, rimOf } from "./healSources";
import { ScenePlanes, type PlacedRows } from "./logWindow";
import { boundsOf, halfWidth, placeShape, sourceIn, type Repair } from "./repair";

interface Size {
  width: number;
  height: number;
}

/** px beyond its border that a clone may change, and any repair at least. */
const CHANGED_BEYOND = 2;

/** What of a picture a repair may change, px. */
export function changedBy(repair: Repair, size: Size): Rectangle {
  const shape = placeShape(repair.shape, size);
  if (repair.kind === "clone") return boundsOf(shape, CHANGED_BEYOND, size);
  // where nothing is alike, healing fills
  const chosen = repair.kind === "fill" ? sourceIn(repair, size) : undefined;
  return boundsOf(shape, Math.max(CHANGED_BEYOND, fillRim(shape, size, chosen)), size);
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
  const chosen = sourceIn(repair, size);
  // healing fills only where it has to find its source
  if (repair.kind === "clone" || (repair.kind === "heal" && chosen)) return 1 << 16;
  return fillScratch(fillRegion(placeShape(repair.shape, size), size, chosen));
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
