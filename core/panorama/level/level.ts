import { apply } from "../../math/matrix3";
import { rotated, type Camera } from "../camera";
import { dot, cross, unit, type Vector } from "../../math/vector";

/**
 * Turns all cameras so that the horizon is level and the middle of the picture looks along +z:
 * people hold cameras so that their x axes lie in the plane of the horizon, whatever way they look.
 *
 * @see Brown and Lowe, IJCV 2007, section 5 (automatic straightening)
 */
export function level(cameras: readonly (Camera | undefined)[]): (Camera | undefined)[] {
  const placed = cameras.filter((c): c is Camera => c !== undefined);
  if (!placed.length) return [...cameras];
  const axis = (c: Camera, k: number): Vector => [
    c.rotation[k]!,
    c.rotation[3 + k]!,
    c.rotation[6 + k]!,
  ];
  // a frame on its side has its y axis in the horizon; the one that lies nearer to the others' x
  // axes is meant
  const mean = unit(
    placed.reduce<number[]>((s, c) => s.map((v, i) => v + axis(c, 1)[i]!), [0, 0, 0]),
  );
  const down =
    placed.length < 2
      ? mean
      : leastDirection(
          placed.map((c) => axis(c, 0)),
          mean,
        );
  // looking down or up all round, the x axes say nothing that the mean does not say better
  let y: Vector;
  if (Math.abs(dot(down, mean)) > 0.5) {
    if (dot(down, mean) < 0) y = down.map((v) => -v) as Vector;
    else y = down;
  } else y = mean;
  const axes = placed.map((c) => axis(c, 2));
  const sum = axes.reduce<number[]>((s, v) => s.map((a, i) => a + v[i]!), [0, 0, 0]);
  const flat = sum.map((v, i) => v - y[i]! * dot(sum, y));
  // a full turn has no middle: the first frame's direction is as good as any
  const ahead =
    Math.hypot(...flat) > 0.1 * placed.length
      ? flat
      : axes[0]!.map((v, i) => v - y[i]! * dot(axes[0]!, y));
  const z = unit(Math.hypot(...ahead) > 1e-6 ? ahead : cross([1, 0, 0], y));
  const x = cross(y, z);
  const toWorld = [...x, ...y, ...z];
  return cameras.map((c) => c && rotated(c, toWorld));
}

/**
 * The direction along which given directions reach least: the smallest eigenvector of their
 * scatter, found from near a guess.
 */
function leastDirection(all: readonly Vector[], guess: Vector): Vector {
  const M = [0, 1, 2].map((r) =>
    [0, 1, 2].map(
      (c) =>
        all.reduce((s, v) => s + v[r]! * v[c]!, 0) / all.length +
        (r === c ? 1e-4 * (1 - guess[r]! ** 2) : -1e-4 * guess[r]! * guess[c]!),
    ),
  );
  // inverse by adjugate, applied again and again
  const m = M.flat();
  const inverse = [
    m[4]! * m[8]! - m[5]! * m[7]!,
    m[2]! * m[7]! - m[1]! * m[8]!,
    m[1]! * m[5]! - m[2]! * m[4]!,
    m[5]! * m[6]! - m[3]! * m[8]!,
    m[0]! * m[8]! - m[2]! * m[6]!,
    m[2]! * m[3]! - m[0]! * m[5]!,
    m[3]! * m[7]! - m[4]! * m[6]!,
    m[1]! * m[6]! - m[0]! * m[7]!,
    m[0]! * m[4]! - m[1]! * m[3]!,
  ];
  let v: Vector = guess;
  for (let i = 0; i < 200; i++) v = unit(apply(inverse, v));
  return v;
}
