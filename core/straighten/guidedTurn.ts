import * as v from "valibot";
import { leastSquares } from "../math/leastSquares";
import { apply, IDENTITY } from "../math/matrix3";
import { range } from "../math/range";
import { rotationFromVector } from "../math/rotation";
import { cross, unit, type Vector } from "../math/vector";

const place = v.tuple([range(-1, 2), range(-1, 2)]);
/**
 * A line that the user says is level or vertical, by its two ends in shares of the frame's width and
 * height.
 */
export const FrameGuideSchema = v.object({
  kind: v.picklist(["level", "vertical"]),
  from: place,
  to: place,
});
export type FrameGuide = v.InferOutput<typeof FrameGuideSchema>;

const RADIANS = Math.PI / 180;
/** Degrees by which a drawn line is off. */
const GUIDE_DEGREES = 0.05;
/**
 * Degrees by which cameras are turned against what they look at, before a line is drawn: so wide
 * that lines decide wherever they say anything; their ratios let a single line roll the camera, and
 * not tilt it.
 */
const PRIOR_DEGREES = { pitch: 20, yaw: 10, roll: 300 };
/** Of its logarithm, where the file tells the focal length, and where it does not. */
const FOCAL_KNOWN = 0.02;
const FOCAL_UNKNOWN = 0.3;

interface Lens {
  width: number;
  height: number;
  focalPx: number;
  isKnown: boolean;
}
/** How the camera has to be turned, and the focal length at which that holds. */
export interface GuidedTurn {
  /** camera to turned camera, row-major */
  turn: number[];
  focalPx: number;
}

/** The normal of the plane through the camera and a line in the picture. */
function planeOf({ from, to }: FrameGuide, { width, height }: Lens, focalPx: number): Vector {
  const [a, b] = [from, to].map(([x, y]): Vector => [
    (x - 0.5) * width,
    (y - 0.5) * height,
    focalPx,
  ]);
  return unit(cross(a!, b!));
}

/**
 * The turn of the camera that makes guides level and vertical, with as little of it as they ask for:
 * one line rolls, two that are vertical tilt, two that are level turn to the side, and all four show
 * a facade from its front. Four lines tell the focal length as well; it moves only as far as what is
 * known of it allows.
 *
 * @see Hartley and Zisserman, "Multiple View Geometry", 2004, section 8.6 (vanishing points)
 */
export function guidedTurn(guides: readonly FrameGuide[], lens: Lens): GuidedTurn {
  const focalSigma = lens.isKnown ? FOCAL_KNOWN : FOCAL_UNKNOWN;
  const priors = [
    PRIOR_DEGREES.pitch * RADIANS,
    PRIOR_DEGREES.yaw * RADIANS,
    PRIOR_DEGREES.roll * RADIANS,
    focalSigma,
  ];
  /** What is wrong at a turn vector and a logarithm of the focal length, in standard deviations. */
  const residuals = (at: readonly number[]): number[] => {
    const turn = turnOf(at);
    const focalPx = lens.focalPx * Math.exp(at[3]!);
    const off = guides.map((guide) => {
      const plane = apply(turn, planeOf(guide, lens, focalPx));
      return (guide.kind === "vertical" ? plane[1] : plane[0]) / (GUIDE_DEGREES * RADIANS);
    });
    return [...off, ...at.map((value, i) => value / priors[i]!)];
  };
  const found = leastSquares(residuals, [0, 0, 0, 0]);
  return { turn: turnOf(found), focalPx: lens.focalPx * Math.exp(found[3]!) };
}

const turnOf = (at: readonly number[]): number[] =>
  at[0] || at[1] || at[2] ? rotationFromVector(at.slice(0, 3)) : [...IDENTITY];
