import type { Heap } from "../../../kernels/heap";
import type { Camera } from "../camera";
import { FLOOR_BYTES, floorBelow, floorMatches, type Floor, type FloorMatch } from "./floorView";
import type { TiePair } from "./geometry";
import { refineTies } from "../ties/refineTies";
import type { LogPlane } from "../ties/tiePlane";

/** What laying out frames asks of their pixels. */
export interface Pixels {
  /** ties moved to their exact place once the cameras are known roughly */
  refine(cameras: readonly (Camera | undefined)[], pairs: readonly TiePair[]): TiePair[];
  /**
   * what frame i, held as `camera` says, shows of the floor that the others show below themselves
   */
  floorMatches(cameras: readonly (Camera | undefined)[], i: number, camera: Camera): FloorMatch[];
}

/**
 * What placing frames asks of their pixels, over planes in memory.
 *
 * @param scale  full-size px a px of the planes
 */
export function pixelsOf(heap: Heap, planes: readonly LogPlane[], scale: number): Pixels {
  // the same for every frame that has no place yet
  let known: { cameras: readonly unknown[]; floor: Floor } | undefined;
  return {
    refine: (cameras, pairs) => refineTies(heap, planes, cameras, pairs, scale),
    floorMatches(cameras, i, camera) {
      if (known?.cameras !== cameras)
        known = {
          cameras,
          floor: floorBelow(heap, planes, cameras, camera.focalPx / scale, scale),
        };
      return floorMatches(heap, planes, known.floor, cameras, i, camera, scale);
    },
  };
}
/** Scratch that it takes. */
export const PIXELS_BYTES = FLOOR_BYTES;
