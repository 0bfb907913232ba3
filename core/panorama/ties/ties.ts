import * as v from "valibot";
import { adjust, largestGroup, mostTies, type Lenses } from "../layout/adjustAll";
import { centreOf, fitOf, type Camera } from "../camera";
import { MOVING } from "../layout/movingCamera";
import { hiding, type Part } from "../seams/masks";
import {
  drawnBy,
  placed,
  type Geometry,
  type PanoramaFrame,
  type TiePair,
} from "../layout/geometry";
import { ROTATING } from "../layout/cameraMotion";
import type { StraightLine } from "../level/straightLines";
import type { VerifiedPair } from "./verifyPair";

const place = v.tuple([
  v.pipe(v.number(), v.minValue(0), v.maxValue(1)),
  v.pipe(v.number(), v.minValue(0), v.maxValue(1)),
]);
const frames = { /** ids of the frames, or their files' names */ a: v.string(), b: v.string() };
/** The same thing in two frames, set manually, in shares of each frame. */
export const OwnTieSchema = v.object({ id: v.string(), ...frames, from: place, to: place });
/** A tie that was found and does not count, by its place in the first frame. */
export const DroppedTieSchema = v.object({ ...frames, from: place });

type Place = readonly [number, number];
export interface TieEdits {
  /** by the frames' places in the stack */
  added: readonly {
    a: number;
    b: number;
    from: Place;
    to: Place;
  }[];
  dropped: readonly { a: number; b: number; from: Place }[];
  /** parts of each frame that give no ties */
  hidden: readonly Part[][];
  /** edges said to be straight */
  lines: readonly StraightLine[];
}
/** A tie is the one that was removed if it lies within this share of the frame of it. */
const SAME_TIE_SHARE = 0.002;
/** Ties of a pair that hold it where nobody set any manually. */
const MIN_HOLDING_TIES = 4;

/**
 * Cameras that were placed share a lens if they share its every figure; a frame without a place is
 * taken to have the known one.
 */
function lensesOfPlaced(cameras: readonly (Camera | undefined)[], known: Camera): Lenses {
  const of = cameras.map((c) =>
    cameras.findIndex(
      (o) =>
        (o ?? known).focalPx === (c ?? known).focalPx &&
        (o ?? known).distortion.every((d, k) => d === (c ?? known).distortion[k]) &&
        centreOf(o ?? known).every((d, k) => d === centreOf(c ?? known)[k]),
    ),
  );
  return { focalPx: cameras.map((c) => (c ?? known).focalPx), of, focalKnown: true };
}

/**
 * Long edges of the frame that a lens's focal length is taken to be where no file and no match
 * tells it: a normal lens's.
 */
const USUAL_FOCAL = 1.2;
/** One lens, as far as the files tell of it. */
const lensAsTold = (frames: readonly PanoramaFrame[]): Lenses => ({
  focalPx: frames.map((f) => f.focalPx ?? USUAL_FOCAL * Math.max(f.width, f.height)),
  of: frames.map(() => 0),
  focalKnown: frames.every((f) => f.focalPx !== undefined),
});

/**
 * Adjusts all cameras once more with other ties, or with lines that are straight. A frame that
 * could not be placed takes its place by two ties or more with one that was, or if none was, with
 * any other; what is held by too few ties falls out.
 *
 * @param geometry  what was found; its cameras are where the adjustment begins
 */
export function withTies(
  frames: readonly PanoramaFrame[],
  geometry: Geometry,
  { added, dropped, hidden, lines }: TieEdits,
): Geometry {
  const known = geometry.cameras.find((c) => c);
  const motion = geometry.flat ? MOVING : ROTATING;
  const lenses = known ? lensesOfPlaced(geometry.cameras, known) : lensAsTold(frames);
  const camera = (i: number): Camera =>
    geometry.cameras[i] ?? {
      rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1],
      ...(known ? fitOf(known) : { focalPx: lenses.focalPx[i]!, distortion: [0, 0, 0] }),
      width: frames[i]!.width,
      height: frames[i]!.height,
      ...drawnBy(known ?? frames[i]!),
    };
  const ofPair = <T extends { a: number; b: number }>(
    list: readonly T[],
    a: number,
    b: number,
  ): T[] => list.filter((t) => t.a === a && t.b === b);
  // the lower frame first, as found ties have it
  const own = added.map((t) => (t.a < t.b ? t : { a: t.b, b: t.a, from: t.to, to: t.from }));
  const keys = new Set([...geometry.pairs, ...own].map((p) => `${p.a}/${p.b}`));
  const hides = hidden.map((parts, i) => hiding(parts, frames[i]!));
  const pairs = [...keys].flatMap((key): VerifiedPair[] => {
    const [a, b] = key.split("/").map(Number) as [number, number];
    const A = frames[a]!;
    const B = frames[b]!;
    const struck = ofPair(dropped, a, b);
    const set = ofPair(own, a, b).map(({ from, to }): TiePair["points"][number] => [
      from[0] * A.width,
      from[1] * A.height,
      to[0] * B.width,
      to[1] * B.height,
    ]);
    const found = ofPair(geometry.pairs, a, b)
      .flatMap((p) => p.points)
      .filter(([ax, ay, bx, by]) => {
        const [x, y] = [ax / A.width, ay / A.height];
        return (
          !struck.some(({ from }) => Math.hypot(from[0] - x, from[1] - y) < SAME_TIE_SHARE) &&
          !hides[a]?.(ax, ay) &&
          !hides[b]?.(bx, by)
        );
      });
    const points = [...set, ...found].slice(0, mostTies(keys.size));
    const both = geometry.cameras[a] && geometry.cameras[b];
    const ofSet = both ? 1 : 2;
    const wanted = set.length ? ofSet : MIN_HOLDING_TIES;
    if (points.length < wanted) return [];
    // two that have a place begin from it
    const leads = both ? [1, 0, 0, 0, 1, 0, 0, 0, 1] : motion.leads(points, camera(a), camera(b));
    return leads ? [{ a, b, points, leads, rmsPx: 0 }] : [];
  });
  const group = largestGroup(frames.length, pairs);
  if (group.length < 2)
    return placed({ cameras: frames.map(() => undefined), rmsPx: frames.map(() => 0), pairs: [] });
  const connected = pairs.filter((p) => group.includes(p.a) && group.includes(p.b));
  return {
    ...placed(adjust(motion, frames, connected, group, lenses, known && geometry.cameras, lines)),
    ...(geometry.flat ? { flat: true } : {}),
  };
}
