import { Heap } from "../kernels/heap";
import type { Camera } from "../core/panorama/camera";
import type { Vector } from "../core/math/vector";
import type { Light } from "../core/panorama/blend/light";
import type { Part } from "../core/panorama/seams/masks";
import type { Canvas } from "../core/panorama/canvas/projection";
import { joinSights, mapOf, seamScratch, sightOf, type Seamed } from "../core/panorama/seams/seams";

/**
 * The seams of all frames at once, as the panorama's step finds them frame by frame.
 *
 * @param masks  what each frame hides
 */
export function findSeams(
  cameras: readonly (Camera | undefined)[],
  canvas: Canvas,
  look: (frame: number, x: number, y: number) => Vector,
  light: Light,
  masks: readonly (readonly Part[])[] = [],
): Seamed {
  const map = mapOf(canvas);
  return joinSights(
    Heap.local(seamScratch(map)),
    cameras,
    map,
    cameras.map(
      (c, i) =>
        c &&
        sightOf(
          c,
          map,
          (x, y) => look(i, x, y),
          { gain: light.gains[i]!, vignetting: light.vignetting },
          masks[i],
        ),
    ),
  );
}
