import { invert, multiply, project } from "../math/matrix3";
import { areasOf } from "../suspects/areas";
import { CELL, compareCells, type CellLight } from "./cellLight";

/**
 * A box in full-size px of the reference frame in which something lies otherwise in some frames,
 * and by how many times what blur and noise explain.
 */
export interface MovedPart {
  x: number;
  y: number;
  width: number;
  height: number;
  times: number;
}
/**
 * Times what is explained at which a moved part begins, and as far as which it goes on; cells of
 * the smallest.
 */
const SEED = 3;
const GROWTH = 1.6;
const MIN_AREA_CELLS = 3;

/**
 * Parts of a focus run that moved while it was taken: frames that follow each other along the
 * travel show there another amount of light, over more than the blur of a step reaches. Blur moves
 * light about but loses none.
 *
 * @param cells    of each frame that is used, along the travel
 * @param placed   of each the way from the reference frame's px to its own, at the size of the
 *   reduced frames
 * @param light    of each its mean light, by which flicker is measured
 * @param scale    full-size px a px of the reduced frames
 */
export function movedParts(
  cells: readonly CellLight[],
  placed: readonly (readonly number[])[],
  light: readonly number[],
  scale: number,
): MovedPart[] {
  if (cells.length < 2) return [];
  const { w, h } = cells[0]!;
  const most = new Float32Array(w * h);
  for (let k = 0; k + 1 < cells.length; k++) {
    const a = cells[k]!;
    const b = cells[k + 1]!;
    const flicker = Math.log2(light[k + 1]! / light[k]!);
    const onward = multiply(placed[k + 1]!, invert(placed[k]!));
    const home = invert(placed[k]!);
    compareCells(a, b, onward, (px, py, _bx, _by, brighter, explained) => {
      const [rx, ry] = project(home, px, py);
      const u = Math.floor(rx / CELL);
      const v = Math.floor(ry / CELL);
      if (u >= 0 && v >= 0 && u < w && v < h)
        most[v * w + u] = Math.max(most[v * w + u]!, Math.abs(brighter - flicker) / explained);
    });
  }
  return areasOf(
    w,
    h,
    (i) => most[i]! > GROWTH,
    MIN_AREA_CELLS,
    (i) => most[i]!,
  ).flatMap((area): MovedPart[] => {
    let times = 0;
    for (let y = area.y0; y < area.y1; y++)
      for (let x = area.x0; x < area.x1; x++) times = Math.max(times, most[y * w + x]!);
    const side = CELL * scale;
    return times > SEED
      ? [
          {
            x: area.x0 * side,
            y: area.y0 * side,
            width: (area.x1 - area.x0) * side,
            height: (area.y1 - area.y0) * side,
            times: Math.round(times * 100) / 100,
          },
        ]
      : [];
  });
}
