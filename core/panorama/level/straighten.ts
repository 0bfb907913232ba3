import * as v from "valibot";
import { apply, multiply, transpose } from "../../math/matrix3";
import { rotationFromVector } from "../../math/rotation";
import { turnByHand, type ViewTurn } from "../../math/viewTurn";
import { cross, unit, type Vector } from "../../math/vector";
import { clamp } from "../../math/clamp";

const direction = v.tuple([v.number(), v.number(), v.number()]);
/**
 * A line that the user says is level, vertical, or straight without being either, by the directions
 * of its two ends before any straightening.
 */
export const GuideSchema = v.object({
  kind: v.picklist(["level", "vertical", "straight"]),
  from: direction,
  to: direction,
});
export type Guide = v.InferOutput<typeof GuideSchema>;
const RADIANS = Math.PI / 180;
/**
 * How little a guide must ask for before the up-vector that was found is left where it is; a level
 * line alone says nothing of pitch.
 */
const UP_PRIOR = 1e-3;

/**
 * The turn that makes guides level and vertical, as little of it as they ask for: ends of a level
 * line come to lie equally high, and a vertical line's plane through the camera comes to hold the
 * vertical.
 *
 * @returns world to world, row-major
 */
export function straightened(all: readonly Guide[]): number[] {
  // what is straight says how the lens bends, and nothing of what is up
  const guides = all.filter((g) => g.kind !== "straight");
  let R = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  if (!guides.length) return R;
  const wrong = (m: readonly number[], { kind, from, to }: Guide): number => {
    if (kind === "vertical") return unit(cross(apply(m, from), apply(m, to)))[1];
    const a = apply(m, from);
    const b = apply(m, to);
    const high = (d: readonly number[]): number => Math.atan2(d[1]!, Math.hypot(d[0]!, d[2]!));
    // a slope, so that a short line counts as a long one
    return (
      (high(a) - high(b)) / Math.max(1e-6, Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!))
    );
  };
  const lean: [number, number] = [0, 0];
  for (let round = 0; round < 12; round++) {
    const step = 1e-5;
    const axes: Vector[] = [
      [1, 0, 0],
      [0, 0, 1],
    ];
    let a = UP_PRIOR;
    let b = 0;
    let d = UP_PRIOR;
    let p = UP_PRIOR * lean[0];
    let q = UP_PRIOR * lean[1];
    for (const g of guides) {
      const r = wrong(R, g);
      const [jx, jz] = axes.map(
        (axis) => (wrong(multiply(rotationFromVector(axis.map((k) => k * step)), R), g) - r) / step,
      ) as [number, number];
      a += jx * jx;
      b += jx * jz;
      d += jz * jz;
      p += jx * r;
      q += jz * r;
    }
    const det = a * d - b * b;
    const x = -(d * p - b * q) / det;
    const z = -(a * q - b * p) / det;
    lean[0] += x;
    lean[1] += z;
    R = multiply(rotationFromVector([x, 0, z]), R);
    if (Math.hypot(x, z) < 1e-9) break;
  }
  return R;
}

/** Guides first, then the manual turn. @returns world to world, row-major */
export const worldTurn = ({
  guides,
  ...turned
}: ViewTurn & { guides: readonly Guide[] }): number[] =>
  multiply(turnByHand(turned), straightened(guides));

const halfTurn = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180;
const hundredths = (degrees: number): number => Math.round(degrees * 100) / 100;

/**
 * The turn under which what is seen in one direction comes to lie in another, without more roll; as
 * near as that goes.
 */
export function draggedTo(was: ViewTurn, from: readonly number[], to: readonly number[]): ViewTurn {
  const [wx, wy, wz] = apply(transpose(turnByHand(was)), unit(from));
  const [tx, ty, tz] = apply(rotationFromVector([0, 0, -was.roll * RADIANS]), unit(to));
  const r = Math.hypot(wx, wz) || 1;
  const across = Math.asin(clamp(tx / r, -1, 1));
  // two yaws bring it there, of which the other looks back over the head
  const [best] = [across, Math.PI - across]
    .map((angle) => {
      const yaw = halfTurn((angle - Math.atan2(wx, wz)) / RADIANS);
      const pitch = halfTurn((Math.atan2(tz, ty) - Math.atan2(r * Math.cos(angle), wy)) / RADIANS);
      return {
        yaw: hundredths(yaw),
        pitch: hundredths(clamp(pitch, -90, 90)),
        roll: was.roll,
        far: Math.abs(halfTurn(pitch - was.pitch)) + 0.01 * Math.abs(halfTurn(yaw - was.yaw)),
      };
    })
    .sort((p, q) => p.far - q.far);
  const { yaw, pitch, roll } = best!;
  return { yaw, pitch, roll };
}

/**
 * The turn with so much more roll as leads from one place to another round the middle of the view.
 *
 * @param from  px from the middle, as `to`
 */
export const rolledTo = (
  was: ViewTurn,
  from: readonly [number, number],
  to: readonly [number, number],
): ViewTurn => ({
  ...was,
  roll: hundredths(
    halfTurn(was.roll + (Math.atan2(to[1], to[0]) - Math.atan2(from[1], from[0])) / RADIANS),
  ),
});
