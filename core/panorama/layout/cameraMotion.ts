import { multiply, type Matrix3 } from "../../math/matrix3";
import { rayOf, type Camera } from "../camera";
import { absoluteOrientation } from "../../math/rotation";
import { unit } from "../../math/vector";
import { level } from "../level/level";
import { verifyPair, type Verified, type VerifiedPair } from "../ties/verifyPair";

type Points = readonly VerifiedPair["points"][number][];
type Lens = Parameters<typeof rayOf>[0];

/**
 * How cameras may lie to each other, and what holds two of them. `leads` is the matrix from
 * directions in b's camera to those in a's.
 */
export interface CameraMotion {
  verify(matches: Points, lensA: Lens, lensB: Lens, seed: number): Verified | undefined;
  /** a camera that all others are placed by; @param lens  looks ahead */
  first(lens: Camera): Camera;
  /** a camera beside one that is placed; @param leads  from its directions to the placed one's */
  beside(placed: Camera, leads: Matrix3, lens: Camera): Camera;
  /** what a pair's points say of the two, if they are enough */
  leads(points: Points, a: Lens, b: Lens): number[] | undefined;
  /** the world turned as one expects to see it */
  upright(cameras: readonly (Camera | undefined)[]): (Camera | undefined)[];
}

/** Cameras that turned about one point. */
export const ROTATING: CameraMotion = {
  verify: verifyPair,
  first: (lens) => lens,
  beside: (placed, leads, lens) => ({ ...lens, rotation: multiply(placed.rotation, leads) }),
  leads: (points, a, b) =>
    points.length < 2
      ? undefined
      : absoluteOrientation(
          points.map((p) => unit(rayOf(b, p[2], p[3]))),
          points.map((p) => unit(rayOf(a, p[0], p[1]))),
        ),
  upright: level,
};
