import type { Features } from "../../features/features";
import { evenly, enoughTies } from "../layout/adjustAll";
import { inFrame, seen, shownBy, type Camera } from "../camera";
import type { TiePair } from "../layout/geometry";
import type { Tie } from "./verifyPair";

/** Ties of a pair lie at least so far apart, px of the reduced frame: nearer ones tell the same. */
const MIN_SPACING_PX = 4;
/**
 * And places of a grid that are added to corners: a little less than the patch that is compared, so
 * that all of what both show is.
 */
const GRID = 12;

/**
 * Gives pairs with few ties more, once the cameras are known: corners of the one frame, spread over
 * what both see, then places of a grid over it. Where they lie in the other frame is what the
 * cameras say, and still to be refined.
 *
 * @param features  of each frame, px of the reduced frames; `scale` full-size px each
 */
export function withMore(
  pairs: readonly TiePair[],
  cameras: readonly (Camera | undefined)[],
  features: readonly Features[],
  scale: number,
): TiePair[] {
  const most = enoughTies(pairs.length);
  return pairs.map((pair) => {
    const A = cameras[pair.a];
    const B = cameras[pair.b];
    if (!A || !B) return pair;
    const corners = shared(
      A,
      B,
      placesOf(features[pair.a]!, scale),
      freeOf(pair.points, MIN_SPACING_PX * scale),
    );
    const withCorners = [...pair.points, ...evenly(corners, most - pair.points.length)];
    const grid = shared(A, B, gridOver(A, GRID * scale), freeOf(withCorners, (GRID / 2) * scale));
    return { ...pair, points: [...withCorners, ...evenly(grid, most - withCorners.length)] };
  });
}

/** The places of a's that b sees, too, and that `isFree` takes one after the other. */
function shared(
  a: Camera,
  b: Camera,
  places: readonly [number, number][],
  isFree: (x: number, y: number) => boolean,
): Tie[] {
  return places.flatMap(([x, y]): Tie[] => {
    const to = seen(b, shownBy(a, x, y));
    return to && inFrame(b, to) && isFree(x, y) ? [[x, y, ...to]] : [];
  });
}

const placesOf = ({ points, count }: Features, scale: number): [number, number][] =>
  Array.from({ length: count }, (_, i) => [points[i * 2]! * scale, points[i * 2 + 1]! * scale]);

function gridOver({ width, height }: Camera, step: number): [number, number][] {
  const across = Math.floor(width / step);
  const down = Math.floor(height / step);
  return Array.from({ length: across * down }, (_, i) => [
    ((i % across) + 0.5) * step,
    (Math.floor(i / across) + 0.5) * step,
  ]);
}

/**
 * Whether a place is in a cell, `side` wide, with nothing in it or round it; and if so, takes it.
 */
function freeOf(points: readonly Tie[], side: number): (x: number, y: number) => boolean {
  const cell = (x: number, y: number, dx = 0, dy = 0): string =>
    `${Math.floor(x / side) + dx} ${Math.floor(y / side) + dy}`;
  const around = [-1, 0, 1];
  const taken = new Set(points.map(([x, y]) => cell(x, y)));
  return (x, y) => {
    if (around.some((dy) => around.some((dx) => taken.has(cell(x, y, dx, dy))))) return false;
    taken.add(cell(x, y));
    return true;
  };
}
