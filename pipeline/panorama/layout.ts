import type { Duplicate } from "../../core/panorama/seams/duplicates";
import type { Light } from "../../core/panorama/blend/light";
import type { Canvas, Projection } from "../../core/panorama/canvas/projection";
import type { Suspect } from "../../core/suspects/suspect";
import type { Labels } from "../../core/panorama/seams/seams";
import type { Guide } from "../../core/panorama/level/straighten";
import type { ViewTurn } from "../../core/math/viewTurn";
import type { Geometry } from "../../core/panorama/layout/geometry";

/** What of a panorama's settings decides how it is looked at, and not what is seen. */
export interface PanoramaView extends ViewTurn {
  projection: Projection | "auto";
  distance: number;
  extent: "auto" | [number, number, number, number];
  guides: Guide[];
}
/** What of the settings decides how a layout is looked at. */
export const viewOf = ({
  projection,
  distance,
  extent,
  guides,
  yaw,
  pitch,
  roll,
}: PanoramaView): PanoramaView => ({ projection, distance, extent, guides, yaw, pitch, roll });

/** Where the frames lie, how their light is evened, and where the seams run. */
export interface Layout extends Geometry {
  /** frames left out because another shows the same */
  duplicates: Duplicate[];
  light: Light;
  canvas: Canvas;
  labels: Labels;
  suspects: Suspect[];
  /** by which the world was turned upright, row-major */
  turned: number[];
  /** as it was asked for */
  view: PanoramaView;
}
