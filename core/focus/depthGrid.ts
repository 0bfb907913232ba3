import type { DepthMap } from "./depthMap";
import { clamp } from "../math/clamp";

/**
 * Depth of the whole picture, small enough to be drawn in space: places along the focus travel,
 * between frames too, row by row, and how far each is known, 0 to 1.
 */
export interface DepthGrid {
  width: number;
  height: number;
  places: Float32Array;
  known: Float32Array;
}

/** Cells along the longer side. */
const LONG_EDGE = 400;
/**
 * What is known less is a guess: of such places in simulated runs half and more are off by more
 * than a twelfth of the travel.
 */
const GUESS_BELOW = 0.3;

/** A map of depth in means over square cells. */
export function depthGrid(
  { peak, known }: Pick<DepthMap, "peak" | "known">,
  w: number,
  h: number,
): DepthGrid {
  const side = Math.max(1, Math.ceil(Math.max(w, h) / LONG_EDGE));
  const width = Math.max(1, Math.floor(w / side));
  const height = Math.max(1, Math.floor(h / side));
  const across = Math.min(side, w);
  const down = Math.min(side, h);
  const means = (plane: Float32Array): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => {
      let sum = 0;
      const left = (i % width) * side;
      const top = Math.floor(i / width) * side;
      for (let y = top; y < top + down; y++)
        for (let x = left; x < left + across; x++) sum += plane[y * w + x]!;
      return sum / (across * down);
    });
  return { width, height, places: means(peak), known: means(known) };
}

/** Share of the cells whose depth is no guess. */
export const shareKnown = ({ known }: DepthGrid): number =>
  known.reduce((n, k) => n + (k < GUESS_BELOW ? 0 : 1), 0) / known.length;
/** Whether the depth of a place, given in shares of the picture, is a guess. */
export const isGuess = (
  { width, height, known }: Omit<DepthGrid, "places">,
  x: number,
  y: number,
): boolean =>
  known[
    Math.min(height - 1, Math.floor(y * height)) * width +
      Math.min(width - 1, Math.floor(x * width))
  ]! < GUESS_BELOW;

/** The cells whose middles lie in a part of the picture, given in shares of it. */
export function partOf(
  { width, height, ...cells }: DepthGrid,
  part: { x: number; y: number; width: number; height: number },
): DepthGrid {
  const [left, w] = cellsIn(part.x, part.width, width);
  const [top, h] = cellsIn(part.y, part.height, height);
  const [places, known] = [cells.places, cells.known].map((all) =>
    Float32Array.from(
      { length: w * h },
      (_, i) => all[(top + Math.floor(i / w)) * width + left + (i % w)]!,
    ),
  ) as [Float32Array, Float32Array];
  return { width: w, height: h, places, known };
}
function cellsIn(from: number, share: number, n: number): [first: number, count: number] {
  const first = clamp(Math.ceil(from * n - 0.5), 0, n - 1);
  return [first, Math.max(1, Math.min(n, Math.ceil((from + share) * n - 0.5)) - first)];
}
