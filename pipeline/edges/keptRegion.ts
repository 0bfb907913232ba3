import { liesOn } from "../../core/raster/coveredRectangle";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Merged } from "../run/run";
import { placeInPicture } from "../straighten/straightenedPlaces";
import { commonArea, edgesStep, emptyIs, emptyShare, type EdgesSettings } from "./step";

type Placed = Pick<Merged, "aligned" | "layout" | "size">;

/** The part of a merged picture that is kept, px of full size. */
export function keptRegion(edges: EdgesSettings, { aligned, layout, size }: Placed): Rectangle {
  if (layout) return edgesStep.run(edges, size, layout.labels, layout.canvas.closed);
  return commonArea(edges, aligned, size);
}

/** Cells across a straightened picture by which it is told how much of it is empty. */
const COLUMNS = 320;

/** How much of what is kept no frame covers, 0 to 1; what is filled is not empty. */
export function emptyIn(
  region: Rectangle,
  edges: EdgesSettings,
  { aligned, layout, size }: Placed,
): number {
  if (emptyIs(edges) === "extend") return 0;
  if (layout) return emptyShare(region, size, layout.labels);
  if (!aligned?.straightening) return 0;
  const places = aligned.frames.flatMap((frame, i) =>
    frame.used ? [placeInPicture(aligned, i)] : [],
  );
  const rows = Math.max(1, Math.round((COLUMNS * size.height) / size.width));
  const of = Uint8Array.from({ length: COLUMNS * rows }, (_, i) => {
    const x = (((i % COLUMNS) + 0.5) * size.width) / COLUMNS;
    const y = ((Math.floor(i / COLUMNS) + 0.5) * size.height) / rows;
    return places.some((place) => liesOn(place, x, y, size)) ? 1 : 0;
  });
  return emptyShare(region, size, { width: COLUMNS, height: rows, of });
}
