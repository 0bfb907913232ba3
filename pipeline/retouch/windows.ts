import { planeBytesOf } from "../../core/raster/accumulator";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { PlacedRows } from "../../core/retouch/logWindow";
import type { Accumulator } from "../../core/raster/accumulator";
import { plain } from "../merge/scene";
import type { Work } from "../work";

/** What two rectangles have in common; undefined where nothing. */
export function common(a: Rectangle, b: Rectangle): Rectangle | undefined {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  const width = Math.min(a.x + a.width, b.x + b.width) - x;
  const height = Math.min(a.y + a.height, b.y + b.height) - y;
  return width > 0 && height > 0 ? { x, y, width, height } : undefined;
}

/** Rows of a picture that begin at its row `top`. */
export const placedRows = (rows: Accumulator, top = 0): PlacedRows => ({
  ...plain(rows),
  x: 0,
  y: top,
});

/** Room for a part of a picture; its memory is the caller's to free. */
export function emptyWindow(work: Pick<Work, "allocate">, region: Rectangle): PlacedRows {
  const planeBytes = planeBytesOf(region.width, region.height);
  return { ...region, ptr: work.allocate(planeBytes * 4 + 64), planeBytes };
}

/** Copies what of a region two windows have in common. */
export async function copyCommon(
  work: Pick<Work, "run">,
  from: PlacedRows,
  to: PlacedRows,
  region: Rectangle,
  on: { signal?: AbortSignal },
): Promise<void> {
  const inFrom = common(from, region);
  const shared = inFrom && common(inFrom, to);
  if (shared) await work.run("copyRegion", { from, to, region: shared }, on);
}
