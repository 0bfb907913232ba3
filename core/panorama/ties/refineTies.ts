import type { Heap } from "../../../kernels/heap";
import type { Camera } from "../camera";
import { fitPatch } from "./fitPatch";
import type { TiePair } from "../layout/geometry";
import { tieInformation } from "./tieInformation";
import { patchOf, toFrame, toPlane } from "./tiePatch";
import { valuesOf, type LogPlane, type LogValues } from "./tiePlane";
import type { Tie } from "./verifyPair";

/** A pair with fewer ties than this has none. */
const MIN_TIES = 6;

/**
 * Moves the second point of every tie to where its surroundings fit those of the first best, to a
 * small part of a pixel, and says how exactly that is known. Ties that do not fit are dropped.
 *
 * @param planes  of each frame, as `tiePlane` makes them
 * @param scale   full-size px a px of the planes
 */
export function refineTies(
  heap: Heap,
  planes: readonly LogPlane[],
  cameras: readonly (Camera | undefined)[],
  pairs: readonly TiePair[],
  scale: number,
): TiePair[] {
  return pairs.flatMap((pair) => {
    const first = cameras[pair.a];
    const second = cameras[pair.b];
    if (!first || !second) return [];
    const A = valuesOf(heap, planes[pair.a]!);
    const B = valuesOf(heap, planes[pair.b]!);
    const points = pair.points
      .map((tie) => refineTie(A, B, [first, second], scale, tie))
      .filter((tie) => tie !== undefined);
    return points.length >= MIN_TIES ? [{ a: pair.a, b: pair.b, points, errors: [] }] : [];
  });
}

/** The same for one tie. @returns undefined where it does not fit */
export function refineTie(
  first: LogValues,
  second: LogValues,
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  tie: Tie,
): Tie | undefined {
  const patch = patchOf(cameras, scale, tie);
  if (!patch) return undefined;
  const { column, row, centre, jacobian } = patch;
  const [ax, ay, bx, by] = tie;
  const right = toPlane(ax, scale) - column;
  const down = toPlane(ay, scale) - row;
  // the matched place is nearer than what the cameras say, as long as they are rough
  const start = [
    toPlane(bx, scale) - (centre[0] + jacobian[0] * right + jacobian[1] * down),
    toPlane(by, scale) - (centre[1] + jacobian[2] * right + jacobian[3] * down),
  ] as const;
  const fit = fitPatch(first, second, patch, start);
  if (!fit) return undefined;
  const from = [toFrame(column, scale), toFrame(row, scale)] as const;
  const to = [toFrame(centre[0] + fit.dx, scale), toFrame(centre[1] + fit.dy, scale)] as const;
  return [...from, ...to, ...tieInformation(fit.normal, fit.residual, jacobian, scale)];
}
