import { solveSymmetric } from "../../math/solveSymmetric";
import type { Matches } from "../../features/matchFeatures";
import type { Features } from "../../features/features";
import { apply, multiply } from "../../math/matrix3";
import { random } from "../../math/random";
import { rayOf, seen, worldRay, type Camera } from "../camera";
import { rotationFromVector } from "../../math/rotation";
import { dot, cross, unit, type Vector } from "../../math/vector";
import { drawnBy, placed, type Geometry, type PanoramaFrame, type TiePair } from "./geometry";
import { homographyOf } from "../../math/homography";
import type { Pixels } from "./pixels";

/**
 * The floor lies level below the camera; at less than this below the horizon (sine of the angle)
 * nothing is taken for it.
 */
const FLOOR: Vector = [0, 1, 0];
const LOWEST = 0.3;
/**
 * A match agrees within this share of the focal length, once the camera is known exactly; so many
 * have to.
 */
const EXACT_MISS_SHARE = 0.0025;
const MIN_EXACT_MATCHES = 16;
/**
 * The same at first, with the share of those on the floor; and for what is only to be looked at
 * again.
 */
const STRICT_AGREEMENT = { within: 0.006, least: MIN_EXACT_MATCHES, share: 0.2 };
const LOOSE_AGREEMENT = { within: 0.012, least: 10, share: 0.12 };
/** How far below the horizon a camera may be held, degrees. */
const PITCHES = [78, 58, 40];
/**
 * What is seen of a plane at a known focal length has sides of one length at a right angle: by how
 * much it may miss.
 */
const MAX_SQUARE_MISS = 0.15;
/** How far the camera may be from the others', in heights above the floor. */
const MAX_DISTANCE_HEIGHTS = 2.5;

interface Match {
  /** direction from the others' place */
  d: Vector;
  /** px of the frame */
  x: number;
  y: number;
  of: number;
  point: TiePair["points"][number];
}

/**
 * Places frames that a camera which only turned cannot explain, but one that stood beside the
 * others and looked at the level floor below them can: as the frame that shows the floor under the
 * tripod. What the floor does not hold of such a frame (all that is nearer to the horizon than its
 * matches) is not shown.
 *
 * The floor's places to the frame's directions are a homography, found from four matches at a time
 * (RANSAC), whose columns give turn and place (Zhang, "A flexible new technique for camera
 * calibration", 2000); both are then fitted to all matches that agree, by Gauss-Newton steps on px
 * under a Huber loss.
 *
 * @param found  the others, upright
 * @param pixels  moves ties to their exact place, and finds more of them where the frame's own
 *   corners do not do
 */
export function placeFromBeside(
  frames: readonly PanoramaFrame[],
  features: readonly Features[],
  scale: number,
  matches: readonly { a: number; b: number; found: Matches }[],
  found: Geometry,
  { refine, floorMatches }: Pixels,
): Geometry {
  const known = found.cameras.find((c) => c);
  if (!known || !found.leftOut.length) return found;
  const cameras = [...found.cameras];
  const rmsPx = [...found.rmsPx];
  const pairs = [...found.pairs];
  for (const i of found.leftOut) {
    const lens: Camera = {
      ...known,
      width: frames[i]!.width,
      height: frames[i]!.height,
      ...drawnBy(frames[i]!),
    };
    const corners = onFloor(i, features, scale, matches, found.cameras);
    const fromAbove = (camera: Camera): Match[] =>
      floorMatches(found.cameras, i, camera).map(({ d, x, y, of, ox, oy }) => ({
        d,
        x,
        y,
        of,
        point: i < of ? [x, y, ox, oy] : [ox, oy, x, y],
      }));
    const { all, rough } =
      roughlyFrom(corners, lens, i) ?? roughlyAtAnyPitch(fromAbove, lens, i) ?? {};
    if (!all || !rough) continue;
    const ties = tiesOf(
      i,
      agreeing(rough, all === corners ? all : [...all, ...corners], STRICT_AGREEMENT.within),
    );
    const exact = refine(
      cameras.map((c, k) => (k === i ? rough : c)),
      ties,
    );
    const plausible = exact.flatMap((t) =>
      t.points.map((point): Match => {
        const [ox, oy, x, y] = t.a === i ? [point[2], point[3], point[0], point[1]] : point;
        const of = t.a === i ? t.b : t.a;
        return { d: worldRay(found.cameras[of]!, ox, oy), x, y, of, point };
      }),
    );
    const final = fitted(rough, agreeing(rough, plausible, STRICT_AGREEMENT.within));
    const agree = final && agreeing(final, plausible, EXACT_MISS_SHARE);
    if (!final || !agree || agree.length < MIN_EXACT_MATCHES) continue;
    const errors = agree.map((m) => offBy(final, m));
    const camera = {
      ...final,
      offset: { ...final.offset!, reach: 0.9 * Math.min(...agree.map((m) => dot(FLOOR, m.d))) },
    };
    cameras[i] = camera;
    rmsPx[i] = Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length);
    pairs.push(
      ...tiesOf(i, agree).map((t) => ({
        ...t,
        errors: t.points.map((p) => errors[agree.findIndex((m) => m.point === p)]!),
      })),
    );
  }
  return { ...found, ...placed({ cameras, rmsPx, pairs }) };
}

interface Rough {
  all: readonly Match[];
  rough: Camera;
}
/** Turn and place as the matches that agree most have them. */
function roughlyFrom(
  all: readonly Match[],
  lens: Camera,
  seed: number,
  { within, least, share } = STRICT_AGREEMENT,
): Rough | undefined {
  const first = likeliest(all, lens, seed, { within, least, share });
  const rough = first && fitted(first, agreeing(first, all, within), least);
  return rough && { all, rough };
}

/**
 * The same from what is seen from above: first as for some ways of holding the camera, then as for
 * the way found by that.
 */
function roughlyAtAnyPitch(
  fromAbove: (camera: Camera) => Match[],
  lens: Camera,
  seed: number,
): Rough | undefined {
  for (const pitch of PITCHES) {
    const first = roughlyFrom(
      fromAbove({ ...lens, rotation: tilted(pitch) }),
      lens,
      seed,
      LOOSE_AGREEMENT,
    );
    const then = first && roughlyFrom(fromAbove(first.rough), lens, seed);
    if (then) return then;
  }
  return undefined;
}

/** A camera's turn that looks so many degrees below the horizon. */
function tilted(degrees: number): number[] {
  const c = Math.cos((degrees * Math.PI) / 180);
  const s = Math.sin((degrees * Math.PI) / 180);
  return [1, 0, 0, 0, c, s, 0, -s, c];
}

/** What a frame's matches say of the floor: where the others see each from their own place. */
function onFloor(
  i: number,
  features: readonly Features[],
  scale: number,
  matches: readonly { a: number; b: number; found: Matches }[],
  cameras: readonly (Camera | undefined)[],
): Match[] {
  return matches
    .filter((m) => (m.a === i && cameras[m.b]) || (m.b === i && cameras[m.a]))
    .flatMap(({ a, b, found }) =>
      Array.from({ length: found.length / 2 }, (_, k): Match => {
        const at = (frame: number, p: number): [number, number] => [
          features[frame]!.points[p * 2]! * scale,
          features[frame]!.points[p * 2 + 1]! * scale,
        ];
        const A = at(a, found[k * 2]!);
        const B = at(b, found[k * 2 + 1]!);
        const [own, theirs, of] = a === i ? [A, B, b] : [B, A, a];
        return {
          d: worldRay(cameras[of]!, ...theirs),
          x: own[0],
          y: own[1],
          of,
          point: [...A, ...B],
        };
      }),
    )
    .filter(({ d }) => d[1] > LOWEST);
}

const tiesOf = (i: number, agree: readonly Match[]): TiePair[] =>
  [...new Set(agree.map((m) => m.of))].map((of) => ({
    a: Math.min(i, of),
    b: Math.max(i, of),
    points: agree.filter((m) => m.of === of).map((m) => m.point),
    errors: [],
  }));
const offBy = (c: Camera, m: Match): number => {
  const p = seen(c, m.d);
  return p ? Math.hypot(p[0] - m.x, p[1] - m.y) : Infinity;
};
const agreeing = (c: Camera, all: readonly Match[], within: number): Match[] =>
  all.filter((m) => offBy(c, m) < within * c.focalPx);

/** The camera that most matches agree with, four taken at a time. */
function likeliest(
  all: readonly Match[],
  lens: Camera,
  seed: number,
  { within, least, share }: typeof STRICT_AGREEMENT,
): Camera | undefined {
  if (all.length < least) return undefined;
  const rnd = random(seed + 1);
  const pick = (): Match => all[Math.floor(rnd() * all.length)]!;
  let best: { camera: Camera; count: number } | undefined;
  for (let round = 0; round < 3000; round++) {
    const camera = cameraOf([pick(), pick(), pick(), pick()], lens);
    if (!camera) continue;
    const count = agreeing(camera, all, within).length;
    if (!best || count > best.count) best = { camera, count };
    if (round > 300 && best.count > 0.6 * all.length) break;
  }
  return best && best.count >= least && best.count > share * all.length ? best.camera : undefined;
}

/**
 * Turn and place from four matches, by their homography; undefined where they are no view of a
 * level plane.
 */
function cameraOf(four: readonly Match[], lens: Camera): Camera | undefined {
  const views = four.map(({ d, x, y }) => ({ d, ray: rayOf(lens, x, y) }));
  const h = views.every(({ ray }) => ray[2] >= 0.05)
    ? homographyOf(
        views.map(({ d, ray }) => ({
          from: [d[0] / d[1], d[2] / d[1]] as const,
          to: [ray[0] / ray[2], ray[1] / ray[2]] as const,
        })),
      )
    : undefined;
  if (!h) return undefined;
  const [gx, gz, g]: Vector[] = [
    [h[0]!, h[3]!, h[6]!],
    [h[1]!, h[4]!, h[7]!],
    [h[2]!, h[5]!, 1],
  ] as [Vector, Vector, Vector];
  const lx = Math.hypot(...gx!);
  const lz = Math.hypot(...gz!);
  // seen from above, ahead of the camera
  const size = 2 / (lx + lz);
  const x = unit(gx!);
  const z0 = unit(gz!);
  if (!(Math.abs(lx / lz - 1) < MAX_SQUARE_MISS) || Math.abs(dot(x, z0)) > MAX_SQUARE_MISS)
    return undefined;
  const y = unit(cross(z0, x));
  const z = cross(x, y);
  const rotation = [...x, ...y, ...z];
  const by = apply(
    rotation,
    g!.map((v) => v * size),
  ).map((v, k) => FLOOR[k]! - v) as Vector;
  return by[1] < 0.8 && Math.hypot(...by) < MAX_DISTANCE_HEIGHTS
    ? { ...lens, rotation, offset: { by, normal: FLOOR, reach: 0 } }
    : undefined;
}

/** Fits turn and place to matches. */
function fitted(
  start: Camera,
  by: readonly Match[],
  least = MIN_EXACT_MATCHES,
): Camera | undefined {
  if (by.length < least) return undefined;
  const moved = (c: Camera, p: readonly number[]): Camera => ({
    ...c,
    rotation: multiply(rotationFromVector(p.slice(0, 3)), c.rotation),
    offset: { ...c.offset!, by: c.offset!.by.map((v, k) => v + p[3 + k]!) as Vector },
  });
  const STEP = 1e-5;
  const huber = 0.0006 * start.focalPx;
  let camera = start;
  for (let round = 0; round < 12; round++) {
    const A = Array.from({ length: 6 }, () => new Array<number>(6).fill(0));
    const b = new Array<number>(6).fill(0);
    const near = [0, 1, 2, 3, 4, 5].map((k) =>
      moved(
        camera,
        [0, 1, 2, 3, 4, 5].map((j) => (j === k ? STEP : 0)),
      ),
    );
    for (const { d, x, y } of by) {
      const p = seen(camera, d);
      const off = near.map((c) => seen(c, d));
      if (!p || off.some((q) => !q)) continue;
      const e = [p[0] - x, p[1] - y] as const;
      const size = Math.hypot(...e);
      const w = size < huber ? 1 : huber / size;
      const J = off.map((q) => [(q![0] - p[0]) / STEP, (q![1] - p[1]) / STEP] as const);
      J.forEach((r, i) => {
        b[i]! -= w * (r[0] * e[0] + r[1] * e[1]);
        J.forEach((c, j) => {
          A[i]![j]! += w * (r[0] * c[0] + r[1] * c[1]);
        });
      });
    }
    const p = solveSymmetric(A, b);
    if (!p) return undefined;
    camera = moved(camera, p);
    if (Math.hypot(...p) < 1e-7) break;
  }
  return Math.hypot(...camera.offset!.by) < MAX_DISTANCE_HEIGHTS && camera.offset!.by[1] < 0.8
    ? camera
    : undefined;
}
