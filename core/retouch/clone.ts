import type { ScenePlanes } from "./logWindow";
import { boundsOf, halfWidth, type PlacedShape } from "./repair";
import { depthInside } from "./repairMask";
import { smoothstep } from "../math/smoothstep";

/**
 * Puts another place of the picture over one as it is, with a border that fades.
 *
 * @param planes    the scene, changed in place
 * @param softness  share of the half-width over which it fades, inside the shape
 */
export function clone(
  planes: ScenePlanes,
  shape: PlacedShape,
  size: { width: number; height: number },
  { dx, dy }: { dx: number; dy: number },
  softness: number,
): void {
  const target = boundsOf(shape, 1, size);
  const depth = depthInside(shape, target);
  const fade = Math.max(1, softness * halfWidth(shape));
  const taken = new Float32Array(depth.length * 4);
  const from = (x: number, y: number): number =>
    planes.indexOf(target.x + x + dx, target.y + y + dy);
  // all is read before any is written: the two places may overlap
  for (let y = 0, i = 0; y < target.height; y++)
    for (let x = 0; x < target.width; x++, i++) {
      const at = from(x, y);
      if (at < 0) continue;
      for (let c = 0; c < 3; c++) taken[i * 4 + c] = planes.colours[c]![at]!;
      taken[i * 4 + 3] = planes.weight[at]!;
    }
  for (let y = 0, i = 0; y < target.height; y++)
    for (let x = 0; x < target.width; x++, i++) {
      const at = planes.indexOf(target.x + x, target.y + y);
      const share = smoothstep((depth[i]! + 0.5) / fade);
      if (at < 0 || share <= 0 || !(taken[i * 4 + 3]! > 0)) continue;
      const own = planes.weight[at]! > 0 ? share : 1;
      for (let c = 0; c < 3; c++) {
        const plane = planes.colours[c]!;
        plane[at] = plane[at]! + own * (taken[i * 4 + c]! - plane[at]!);
      }
      planes.weight[at] = planes.weight[at]! + own * (taken[i * 4 + 3]! - planes.weight[at]!);
    }
}
