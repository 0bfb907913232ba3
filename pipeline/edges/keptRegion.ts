import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Merged } from "../run/run";
import { commonArea, edgesStep, type EdgesSettings } from "./step";

/** The part of a merged picture that is kept, px of full size. */
export function keptRegion(
  edges: EdgesSettings,
  { aligned, layout, size }: Pick<Merged, "aligned" | "layout" | "size">,
): Rectangle {
  if (layout) return edgesStep.run(edges, size, layout.labels, layout.canvas.closed);
  return commonArea(edges, aligned?.frames ?? [], size.width, size.height);
}
