import { invert } from "../../math/matrix3";
import { bundle } from "./bundle";
import { fitOf, type Camera } from "../camera";
import { drawnBy, type PanoramaFrame, type TiePair } from "./geometry";
import type { CameraMotion } from "./cameraMotion";
import type { StraightLine } from "../level/straightLines";
import type { VerifiedPair } from "../ties/verifyPair";
import { clamp } from "../../math/clamp";

/**
 * Ties of all pairs together that are enough to be adjusted, and of one pair at least and at most:
 * many pairs hold each other, of few each says as much as it can.
 */
const ENOUGH_TIES = 3200;
const MIN_TIES_A_PAIR = 110;
const MAX_TIES_A_PAIR = 800;
/** Room for those set manually beside what was found. */
const MANUAL_TIES_A_PAIR = 40;

/** How many ties a pair makes do with, one of so many. */
export const enoughTies = (pairs: number): number =>
  clamp(Math.floor(ENOUGH_TIES / pairs), MIN_TIES_A_PAIR, MAX_TIES_A_PAIR);
/** How many of a pair enter the adjustment at most. */
export const mostTies = (pairs: number): number => enoughTies(pairs) + MANUAL_TIES_A_PAIR;

/** At most so many of a list, evenly over its length. */
export function evenly<T>(list: readonly T[], most: number): T[] {
  const every = Math.max(1, list.length / most);
  return most > 0
    ? list.filter((_, i) => Math.floor(i / every) !== Math.floor((i - 1) / every))
    : [];
}

/**
 * The lens of each frame: its focal length in px as far as it is known, and which frames share one.
 */
export interface Lenses {
  focalPx: readonly number[];
  of: readonly number[];
  /** from the files */
  focalKnown: boolean;
  /** whether where its axis meets the frame is looked for, too */
  centreFree?: boolean;
}
/** All frames through one lens. */
export const oneLens = (n: number, focalPx: number, focalKnown: boolean): Lenses => ({
  focalPx: new Array<number>(n).fill(focalPx),
  of: new Array<number>(n).fill(0),
  focalKnown,
});

/** Places of the frames of the largest group that pairs hold together. */
export function largestGroup(n: number, pairs: readonly { a: number; b: number }[]): number[] {
  const of = Array.from({ length: n }, (_, i) => i);
  const root = (i: number): number => {
    while (of[i] !== i) i = of[i]!;
    return i;
  };
  for (const { a, b } of pairs) of[root(a)] = root(b);
  const groups = new Map<number, number[]>();
  for (let i = 0; i < n; i++) groups.set(root(i), [...(groups.get(root(i)) ?? []), i]);
  return [...groups.values()].sort((a, b) => b.length - a.length || a[0]! - b[0]!)[0] ?? [];
}

/**
 * Sets the cameras along the strongest pairs, from the best connected frame on, and adjusts all
 * together.
 *
 * @param lines  what is straight in some of the frames
 */
export function adjust(
  motion: CameraMotion,
  frames: readonly PanoramaFrame[],
  pairs: readonly VerifiedPair[],
  group: readonly number[],
  lenses: Lenses,
  from?: readonly (Camera | undefined)[],
  lines: readonly StraightLine[] = [],
): { cameras: (Camera | undefined)[]; rmsPx: number[]; pairs: TiePair[] } {
  const weight = (i: number): number =>
    pairs.reduce((s, p) => s + (p.a === i || p.b === i ? p.points.length : 0), 0);
  const first = [...group].sort((a, b) => weight(b) - weight(a) || a - b)[0]!;
  const fresh = (i: number): Camera => ({
    rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1],
    focalPx: lenses.focalPx[i]!,
    distortion: [0, 0, 0],
    width: frames[i]!.width,
    height: frames[i]!.height,
    ...drawnBy(frames[i]!),
  });
  const placed = new Map<number, Camera>([[first, from?.[first] ?? motion.first(fresh(first))]]);
  while (placed.size < group.length) {
    const next = pairs
      .filter((p) => placed.has(p.a) !== placed.has(p.b))
      .sort((p, q) => q.points.length - p.points.length)[0];
    if (!next) break;
    const [old, add, by] = placed.has(next.a)
      ? [next.a, next.b, next.leads]
      : [next.b, next.a, invert(next.leads)];
    // as far as its lens is known already
    const like = [...placed].find(([i]) => lenses.of[i] === lenses.of[add])?.[1];
    placed.set(
      add,
      from?.[add] ??
        motion.beside(placed.get(old)!, by, { ...fresh(add), ...(like && fitOf(like)) }),
    );
    // a few rounds as each joins keep a long chain from bending
    if (!from && (placed.size % 3 === 0 || placed.size === group.length))
      settle(placed, pairs, lenses, 6, lines);
  }
  const { errors, rms } = settle(placed, pairs, lenses, 40, lines);
  return {
    cameras: frames.map((_, i) => placed.get(i)),
    rmsPx: frames.map((_, i) => rms.get(i) ?? 0),
    pairs: errors,
  };
}

function settle(
  placed: Map<number, Camera>,
  pairs: readonly VerifiedPair[],
  lenses: Lenses,
  rounds: number,
  lines: readonly StraightLine[],
): { errors: TiePair[]; rms: Map<number, number> } {
  const ids = [...placed.keys()];
  const at = new Map(ids.map((id, i) => [id, i]));
  const own = pairs.filter((p) => placed.has(p.a) && placed.has(p.b));
  const thin = own.map((p) => ({
    ...p,
    a: at.get(p.a)!,
    b: at.get(p.b)!,
    points:
      p.points.length > mostTies(own.length) ? evenly(p.points, enoughTies(own.length)) : p.points,
  }));
  const done = bundle(
    ids.map((id) => placed.get(id)!),
    thin,
    { ...lenses, of: ids.map((id) => lenses.of[id]!) },
    rounds,
    lines.flatMap((l) => (at.has(l.frame) ? [{ ...l, frame: at.get(l.frame)! }] : [])),
  );
  ids.forEach((id, i) => placed.set(id, done.cameras[i]!));
  return {
    errors: own.map((p, k) => ({
      a: p.a,
      b: p.b,
      points: thin[k]!.points,
      errors: done.errors[k]!,
    })),
    rms: new Map(ids.map((id, i) => [id, done.rmsPx[i]!])),
  };
}
