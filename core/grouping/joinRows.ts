import { shiftOf } from "./pairView";
import { oddsOf, type PairStatistics } from "./pairStatistics";
import { joinWhere, type Segment } from "./segments";

/** Rows are taken one after the other: seconds between them at most. */
const MAX_PAUSE_SECONDS = 60;
/** So many of a sweep's latest frames are looked back at: two rows of it. */
const FRAMES_LOOKED_BACK = 24;
/** Log odds beyond which two frames overlap, and correlation beyond which they show one view. */
const OVERLAP_ODDS = 2.5;
const SAME_VIEW_CORRELATION = 0.8;
/** Places of two frames, shares of the frame, that count as one, and as two. */
const SAME_PLACE_SHIFT = 0.08;
const OTHER_PLACE_SHIFT = 0.12;

/**
 * Joins panoramas whose frames overlap all along: where a row ends in haze or water and the next
 * one begins there, the two frames that meet tell nothing, but those below the others' middles do.
 * A view that is taken anew is no row.
 *
 * @param order  the frames that the segments cut, in the order of their taking
 */
export function joinRows(
  e: PairStatistics,
  order: readonly number[],
  segments: readonly Segment[],
): Segment[] {
  return joinWhere(
    segments,
    (before, s) =>
      s.kind === "panorama" &&
      isNextRow(e, order.slice(before.from, before.to), order.slice(s.from, s.to)),
  );
}

function isNextRow(e: PairStatistics, above: readonly number[], row: readonly number[]): boolean {
  const last = above.at(-1)!;
  const first = row[0]!;
  if (
    (e.pause(last, first) ?? 0) > MAX_PAUSE_SECONDS ||
    e.settings(last, first) < -5 ||
    Math.abs(e.step(last, first) ?? 0) > 0.5
  )
    return false;
  let overlap = 0;
  let again = 0;
  for (const j of row) {
    const seen = above.slice(-FRAMES_LOOKED_BACK).flatMap((i) => {
      const p = e.pair(i, j);
      return p && oddsOf(p.certainty) > OVERLAP_ODDS
        ? [{ apart: shiftOf(p), correlation: p.correlation }]
        : [];
    });
    if (seen.some((p) => p.apart < SAME_PLACE_SHIFT && p.correlation > SAME_VIEW_CORRELATION))
      again++;
    else if (seen.some((p) => p.apart > OTHER_PLACE_SHIFT)) overlap++;
  }
  return overlap * 2 >= row.length && overlap >= 2 && again * 4 <= row.length;
}
