import { Heap } from "../kernels/heap";
import type { Camera, Vector } from "../core/panorama/camera";
import type { Light } from "../core/panorama/light";
import type { Part } from "../core/panorama/masks";
import type { Canvas } from "../core/panorama/projection";
import { joinSights, mapOf, seamScratch, sightOf, type Seamed } from "../core/panorama/seams";

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
