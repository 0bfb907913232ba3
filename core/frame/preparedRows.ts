import { sourceOf, type Size } from "./lens";
import { healReach } from "./healSpots";
import { hasLens, type Preparation } from "./preparation";
import { noiseReach } from "./reduceNoise";

/** Rows are read in whole blocks of any file. */
const BLOCK_ROWS = 16;
/**
 * What resampling needs round a place, and what it may lie beside the line between the places that
 * are computed, px.
 */
const RESAMPLING_ROWS = 8;

/**
 * The rows of a frame that have to be read so that some rows of it come out prepared as they would
 * in the whole.
 *
 * @param downscale  full-size px a px
 */
export function preparedRows(
  preparation: Preparation,
  size: Size,
  [y0, y1]: readonly [number, number],
  downscale: number,
): [number, number] {
  let from = y0;
  let to = y1;
  if (hasLens(preparation))
    for (let i = 0; i <= 32; i++)
      for (const y of [y0, y1]) {
        const p = sourceOf(preparation, size, (size.width * i) / 32, y);
        const fringe =
          Math.abs(p.y - size.height / 2) *
          Math.max(Math.abs(preparation.fringeRed), Math.abs(preparation.fringeBlue)) *
          1e-4;
        from = Math.min(from, p.y - fringe - RESAMPLING_ROWS);
        to = Math.max(to, p.y + fringe + RESAMPLING_ROWS);
      }
  const reach =
    (preparation.noise > 0 ? noiseReach(downscale) : 0) + healReach(preparation.dust, size.width);
  return [
    Math.max(0, Math.floor((from - reach) / BLOCK_ROWS) * BLOCK_ROWS),
    Math.min(size.height, Math.ceil((to + reach) / BLOCK_ROWS) * BLOCK_ROWS),
  ];
}
