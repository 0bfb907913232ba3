import { multiply, transpose } from "../../math/matrix3";
import { type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import type { VerifiedPair } from "../ties/verifyPair";
import { clamp } from "../../math/clamp";

/** Degrees beyond which a pair's own turn is another one than the layout's. */
const OTHER_TURN_DEGREES = 4;
/**
 * Matches that have to speak for another place, and their share of all that speak of a frame's
 * place, for it to be in doubt.
 */
const MIN_OTHER_MATCHES = 20;
const MIN_OTHER_SHARE = 0.25;

/**
 * Share of a frame's width within which another one looks the same way, degrees by which it may be
 * rolled, and how many frames, and which share of all, do so by no chance.
 */
const SAME_DIRECTION_SHARE = 0.2;
const MAX_ROLL_DEGREES = 20;
const MIN_TWINS = 3;
const TWIN_SHARE = 0.25;

/**
 * A frame whose place is in doubt, and the frames that have it elsewhere, or on which it lies
 * though it was taken apart from them.
 */
export interface DoubtfulPlace {
  frame: number;
  against: number[];
}

/**
 * Frames for which several layouts explain the matches: pairs that were verified by themselves, and
 * lie otherwise in the layout. Of a scene that repeats or mirrors itself, ties of the layout that
 * was chosen fit to a part of a pixel whether it is the right one or not; what was set aside for it
 * tells.
 *
 * @param verified  all pairs that a turn explains, kept in the layout or not
 * @returns the frames with the largest share of contradicting matches first
 */
export function doubtfulPlaces(
  cameras: readonly (Camera | undefined)[],
  verified: readonly VerifiedPair[],
): DoubtfulPlace[] {
  const counts = cameras.map(() => ({ all: 0, otherwise: 0, against: [] as number[] }));
  for (const { a, b, leads, points } of verified) {
    const A = cameras[a];
    const B = cameras[b];
    const otherwise =
      A && B
        ? degreesBetween(multiply(transpose(A.rotation), B.rotation), leads) > OTHER_TURN_DEGREES
        : Boolean(A) !== Boolean(B);
    for (const [own, other] of [
      [a, b],
      [b, a],
    ] as const) {
      const of = counts[own]!;
      of.all += points.length;
      if (!otherwise) continue;
      of.otherwise += points.length;
      of.against.push(other);
    }
  }
  const share = (i: number): number => counts[i]!.otherwise / Math.max(1, counts[i]!.all);
  const doubtful = counts.flatMap(({ otherwise, against }, frame) =>
    cameras[frame] && otherwise >= MIN_OTHER_MATCHES && share(frame) > MIN_OTHER_SHARE
      ? [{ frame, against }]
      : [],
  );
  const sorted = doubtful.sort((p, q) => share(q.frame) - share(p.frame) || p.frame - q.frame);
  return [...sorted, ...twins(cameras).filter((t) => !sorted.some((d) => d.frame === t.frame))];
}

/**
 * Frames that lie on others which were not taken next to them: nobody takes a sweep so, unless
 * twice, and a scene that repeats itself exactly folds up so, with matches that all agree.
 */
function twins(cameras: readonly (Camera | undefined)[]): DoubtfulPlace[] {
  const sameWay = (a: Camera, b: Camera): boolean => {
    const turn = multiply(transpose(a.rotation), b.rotation);
    const away = Math.acos(clamp(turn[8]!, -1, 1));
    return (
      away < 2 * SAME_DIRECTION_SHARE * Math.atan(a.width / 2 / a.focalPx) &&
      degreesBetween(a.rotation, b.rotation) < MAX_ROLL_DEGREES
    );
  };
  const found = cameras.flatMap((own, frame): DoubtfulPlace[] => {
    const against = own
      ? cameras.flatMap((other, i) =>
          other && Math.abs(i - frame) > 1 && sameWay(own, other) ? [i] : [],
        )
      : [];
    return against.length ? [{ frame, against }] : [];
  });
  return found.length >= Math.max(MIN_TWINS, TWIN_SHARE * cameras.filter(Boolean).length)
    ? found
    : [];
}
