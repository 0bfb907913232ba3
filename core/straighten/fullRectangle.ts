import type { Matrix3 } from "../math/matrix3";
import { liesOn } from "../raster/coveredRectangle";
import { largestOfRatio, largestRectangle, type Rectangle } from "../raster/largestRectangle";

interface Size {
  width: number;
  height: number;
}
/** Cells along the longer side of the picture on which the rectangle is found first. */
const CELLS = 256;
/** Px within which a side is found exactly. */
const EXACT_PX = 0.25;

/**
 * The largest rectangle of a picture that all frames cover wholly, whole px; of a shape where that is
 * said. It is found on cells and then grown to what the frames' outlines allow: those are convex, so
 * that a rectangle is covered if its corners are.
 *
 * @param places  the picture's px to each frame's
 * @param size    of the picture and of the frames
 * @param ratio   width over height
 * @returns undefined where there is none
 */
export function fullRectangle(
  places: readonly Matrix3[],
  size: Size,
  ratio: number | undefined,
): Rectangle | undefined {
  const isCovered = (x: number, y: number): boolean =>
    x >= 0 &&
    y >= 0 &&
    x <= size.width &&
    y <= size.height &&
    places.every((place) => liesOn(place, x, y, size));
  const found = onCells(isCovered, size, ratio);
  if (!found) return undefined;
  const grown = ratio === undefined ? grownBySides(found, isCovered) : grownWhole(found, isCovered);
  const x = Math.ceil(grown.x0);
  const y = Math.ceil(grown.y0);
  return { x, y, width: Math.floor(grown.x1) - x, height: Math.floor(grown.y1) - y };
}

interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}
type Covered = (x: number, y: number) => boolean;

function onCells(
  isCovered: Covered,
  { width, height }: Size,
  ratio: number | undefined,
): Box | undefined {
  const cell = Math.max(width, height) / CELLS;
  const columns = Math.floor(width / cell);
  const rows = Math.floor(height / cell);
  const across = width / columns;
  const down = height / rows;
  const corners = Uint8Array.from({ length: (columns + 1) * (rows + 1) }, (_, i) =>
    isCovered((i % (columns + 1)) * across, Math.floor(i / (columns + 1)) * down) ? 1 : 0,
  );
  const mask = Uint8Array.from({ length: columns * rows }, (_, i) => {
    const at = Math.floor(i / columns) * (columns + 1) + (i % columns);
    return (
      corners[at]! & corners[at + 1]! & corners[at + columns + 1]! & corners[at + columns + 2]!
    );
  });
  const r =
    ratio === undefined
      ? largestRectangle(mask, columns, rows)
      : largestOfRatio(mask, columns, rows, (ratio * down) / across);
  if (!r.width || !r.height) return undefined;
  const box = { x0: r.x * across, y0: r.y * down, x1: 0, y1: 0 };
  box.x1 = box.x0 + r.width * across;
  box.y1 = box.y0 + r.height * down;
  if (ratio === undefined) return box;
  // cells are whole: the shape is not
  const wide = Math.min(box.x1 - box.x0, (box.y1 - box.y0) * ratio);
  const middle = [(box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2] as const;
  return {
    x0: middle[0] - wide / 2,
    x1: middle[0] + wide / 2,
    y0: middle[1] - wide / ratio / 2,
    y1: middle[1] + wide / ratio / 2,
  };
}

const isFull = ({ x0, y0, x1, y1 }: Box, isCovered: Covered): boolean =>
  isCovered(x0, y0) && isCovered(x1, y0) && isCovered(x0, y1) && isCovered(x1, y1);

/** The furthest, 0 to `most`, at which a box made of it is still full. */
function furthest(most: number, box: (by: number) => Box, isCovered: Covered): number {
  if (!isFull(box(0), isCovered)) return 0;
  let lo = 0;
  let hi = most;
  while (hi - lo > EXACT_PX) {
    const middle = (lo + hi) / 2;
    if (isFull(box(middle), isCovered)) lo = middle;
    else hi = middle;
  }
  return lo;
}

function grownBySides(found: Box, isCovered: Covered): Box {
  const most = found.x1 - found.x0 + found.y1 - found.y0;
  let box = found;
  const sides: ((b: Box, by: number) => Box)[] = [
    (b, by) => ({ ...b, y0: b.y0 - by }),
    (b, by) => ({ ...b, y1: b.y1 + by }),
    (b, by) => ({ ...b, x0: b.x0 - by }),
    (b, by) => ({ ...b, x1: b.x1 + by }),
  ];
  for (const side of sides) {
    const from = box;
    box = side(
      from,
      furthest(most, (by) => side(from, by), isCovered),
    );
  }
  return box;
}

/** Grown about its middle, in its own shape. */
function grownWhole(found: Box, isCovered: Covered): Box {
  const ratio = (found.x1 - found.x0) / (found.y1 - found.y0);
  const larger = (by: number): Box => ({
    x0: found.x0 - by,
    x1: found.x1 + by,
    y0: found.y0 - by / ratio,
    y1: found.y1 + by / ratio,
  });
  return larger(furthest(found.x1 - found.x0, larger, isCovered));
}
