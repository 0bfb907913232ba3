import type { Features } from "../../features/features";
import type { Segment } from "../../features/lineSegments";
import type { Matches } from "../../features/matchFeatures";
import { MOVING } from "./movingCamera";
import { placeFromBeside } from "./fromBeside";
import type { Geometry, PanoramaFrame } from "./geometry";
import type { Pixels } from "./pixels";
import { findLevel } from "../level/findLevel";
import { solvePanorama } from "./solvePanorama";

/**
 * Places frames from their matched corners: what turned about one point first, set upright by the
 * picture's own edges, then what shows the floor from beside; or all along one plane, if `flat`.
 *
 * @param features  in px of reduced frames; `scale` full-size px each
 * @param edges     straight edges of each frame
 */
export function placeFrames(
  frames: readonly PanoramaFrame[],
  features: readonly Features[],
  scale: number,
  matches: readonly { a: number; b: number; found: Matches }[],
  edges: readonly (readonly Segment[])[],
  pixels: Pixels,
  flat = false,
): Geometry {
  if (flat)
    return {
      ...solvePanorama(frames, features, scale, matches, pixels.refine, MOVING),
      flat: true,
    };
  const found = solvePanorama(frames, features, scale, matches, pixels.refine);
  return placeFromBeside(
    frames,
    features,
    scale,
    matches,
    { ...found, ...findLevel(found.cameras, edges) },
    pixels,
  );
}
