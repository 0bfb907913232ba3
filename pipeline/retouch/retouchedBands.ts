import type { Rectangle } from "../../core/raster/largestRectangle";
import { changedBy, readBy, repairScratch } from "../../core/retouch/applyRepair";
import type { PlacedRows } from "../../core/retouch/logWindow";
import { leaseOf, type Lease } from "../../runtime/lease";
import { TaskScope } from "../../runtime/taskScope";
import type { Coming } from "../deliver/step";
import type { ComingBand } from "../merge/band";
import type { Work } from "../work";
import type { KeptRepair } from "./repairSchema";
import { common, copyCommon, emptyWindow, placedRows } from "./windows";

/** A repair with the part of the picture that it is made in. */
interface RepairedWindow {
  repair: KeptRepair;
  changed: Rectangle;
  window: PlacedRows;
}

/**
 * A picture that comes in bands, with its repairs: each is made beforehand in a window of its own,
 * of those bands that it needs, and laid over the bands as they come.
 *
 * @returns the bands, and with them the lease of the windows
 */
export async function retouchedBands(
  work: Work,
  coming: Coming,
  repairs: readonly KeptRepair[],
  on: { signal?: AbortSignal },
): Promise<Coming & Lease> {
  await using scope = new TaskScope(work);
  const size = { width: coming.width, height: coming.height };
  const windows = repairs.map((repair) => ({
    repair,
    changed: changedBy(repair, size),
    window: emptyWindow(scope, readBy(repair, size)),
  }));
  await gather(scope, coming, windows, on);
  for (const [i, { repair, window }] of windows.entries()) {
    // what was put right before is what this one sees
    for (const earlier of windows.slice(0, i))
      await copyCommon(scope, earlier.window, window, earlier.changed, on);
    const scratch = repairScratch(repair, size);
    await scope.run("repair", { rows: window, repair, size }, { scratch, ...on });
  }
  scope.keep(...windows.map(({ window }) => window.ptr));
  return {
    ...size,
    bands: coming.bands.map((band) => overlaid(work, band, windows, on)),
    ...leaseOf(() => {
      for (const { window } of windows) work.free(window.ptr);
    }),
  };
}

/** Fills the windows from the bands that they lie in. */
async function gather(
  work: Work,
  { bands, width }: Coming,
  windows: readonly RepairedWindow[],
  on: { signal?: AbortSignal },
): Promise<void> {
  for (const { y0, y1, take } of bands) {
    const band = { x: 0, y: y0, width, height: y1 - y0 };
    const touched = windows.filter(({ window }) => common(window, band));
    if (!touched.length) continue;
    const { rows, done } = await take();
    for (const { window } of touched)
      await copyCommon(work, placedRows(rows, y0), window, window, on);
    done();
  }
}

/** A band with what was put right in it. */
const overlaid = (
  work: Work,
  { y0, y1, take }: ComingBand,
  windows: readonly RepairedWindow[],
  on: { signal?: AbortSignal },
): ComingBand => ({
  y0,
  y1,
  async take() {
    const taken = await take();
    const rows = placedRows(taken.rows, y0);
    for (const { window, changed } of windows) await copyCommon(work, window, rows, changed, on);
    return taken;
  },
});
