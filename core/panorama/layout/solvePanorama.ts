import { median } from "../../math/median";
import { adjust, evenly, largestGroup, oneLens, type Lenses } from "./adjustAll";
import { fitOf, type Camera, type LensFit } from "../camera";
import { placed, type Geometry, type PanoramaFrame, type TiePair } from "./geometry";
import { doubtfulPlaces } from "./layoutDoubt";
import type { Features } from "../../features/features";
import type { Matches } from "../../features/matchFeatures";
import { ROTATING } from "./cameraMotion";
import { alongRow } from "./rowStep";
import { withMore } from "../ties/moreTies";
import { EXPECTED, verifyPair, type VerifiedPair } from "../ties/verifyPair";
import { clamp } from "../../math/clamp";

/**
 * Focal lengths in long edges that are tried where the file does not say: from 14 to 200 mm on a 36
 * mm wide frame.
 */
const FOCALS = spaced(0.39, 5.6);
/**
 * Matches of a pair that are asked which of them is the likeliest, and draws of two of them, at
 * most: one of many pairs may be mistaken.
 */
const FOCAL_POINTS = 150;
const FOCAL_DRAWS = 150;
/** What is assumed of a lens where looks at a plane say too little of it, in long edges. */
const USUAL_FOCAL = 0.8;
/** And of fisheye lenses, from 6 to 35 mm. */
const FISHEYE_FOCALS = spaced(0.17, 1);
function spaced(from: number, to: number): number[] {
  return Array.from({ length: 16 }, (_, i) => from * (to / from) ** (i / 15));
}

/**
 * Places frames from their matched corners, round one point or as `placement` has it: pairs are
 * verified, the largest connected group is placed along its strongest pairs, then all
 * together with the lens.
 *
 * @param features  in px of reduced frames; `scale` full-size px each
 * @param matches   of every pair that was compared
 * @param refine    moves ties to their exact place once the cameras are known roughly
 */
export function solvePanorama(
  frames: readonly PanoramaFrame[],
  features: readonly Features[],
  scale: number,
  matches: readonly { a: number; b: number; found: Matches }[],
  refine: (cameras: readonly (Camera | undefined)[], pairs: readonly TiePair[]) => TiePair[],
  motion = ROTATING,
): Geometry {
  const n = frames.length;
  const long = Math.max(...frames.map((f) => Math.max(f.width, f.height)));
  const listed = matches
    .map(({ a, b, found }) => ({
      a,
      b,
      points: Array.from({ length: found.length / 2 }, (_, k): VerifiedPair["points"][number] => {
        const [i, j] = [found[k * 2]!, found[k * 2 + 1]!];
        const A = features[a]!.points;
        const B = features[b]!.points;
        return [A[i * 2]! * scale, A[i * 2 + 1]! * scale, B[j * 2]! * scale, B[j * 2 + 1]! * scale];
      }),
    }))
    .filter((m) => m.points.length >= 9);
  const stated = frames
    .map((f) => f.focalPx)
    .filter((f): f is number => f !== undefined && f > 0)
    .sort((a, b) => a - b);
  const focalKnown = stated.length > n / 2;
  const verifyAll = (
    lensOf: (i: number) => LensFit,
    of: typeof listed,
    verify = motion.verify,
  ): VerifiedPair[] =>
    of.flatMap(({ a, b, points }) => {
      const lens = (i: number): Parameters<typeof motion.verify>[1] => ({
        ...frames[i]!,
        ...lensOf(i),
      });
      const v = verify(points, lens(a), lens(b), a * 997 + b);
      return v
        ? [{ a, b, points: v.inliers.map((i) => points[i]!), leads: v.leads, rmsPx: v.rmsPx }]
        : [];
    });
  const withRow = (
    lensOf: (i: number) => LensFit,
    found: readonly VerifiedPair[],
  ): VerifiedPair[] =>
    motion !== ROTATING
      ? [...found]
      : [
          ...found,
          ...alongRow(found, n, (a, b) => {
            const of = listed.find((m) => m.a === a && m.b === b);
            return (
              of &&
              verifyAll(lensOf, [of], (m, A, B, seed) =>
                verifyPair(m, A, B, seed, undefined, EXPECTED),
              )[0]
            );
          }),
        ];
  const undistorted = (f: number) => ({
    focalPx: f,
    distortion: [0, 0, 0] as Camera["distortion"],
  });
  let focalPx: number | undefined;
  if (focalKnown) focalPx = stated[stated.length >> 1]!;
  else if (motion !== ROTATING) focalPx = USUAL_FOCAL * long;
  else
    focalPx = likeliestFocal(
      (f, of: typeof listed) =>
        verifyAll(
          () => undistorted(f),
          of,
          (m, a, b, seed) => verifyPair(m, a, b, seed, FOCAL_DRAWS),
        ),
      [...listed]
        .sort((a, b) => b.points.length - a.points.length)
        .slice(0, clamp(n, 6, 14))
        .map((m) => ({ ...m, points: evenly(m.points, FOCAL_POINTS) })),
      long,
      (frames[0]!.lens ?? "rectilinear") === "rectilinear" ? FOCALS : FISHEYE_FOCALS,
    );
  const none = (message: string): Geometry => ({
    cameras: frames.map(() => undefined),
    rmsPx: frames.map(() => 0),
    leftOut: frames.map((_, i) => i),
    pairs: [],
    warnings: [{ code: "no-overlap", message }],
  });
  if (focalPx === undefined) return none("No two frames were found to overlap");
  const lenses = focalKnown ? lensesOf(frames, focalPx) : oneLens(n, focalPx, false);
  const first = (i: number): LensFit => undistorted(lenses.focalPx[i]!);
  let verified = withRow(first, verifyAll(first, listed));
  let pairs = verified;
  let group = largestGroup(n, pairs);
  if (group.length < 2) return none("No two frames were found to overlap");
  pairs = pairs.filter((p) => group.includes(p.a) && group.includes(p.b));
  let solved = adjust(motion, frames, pairs, group, lenses);
  // a lens that draws otherwise than it was taken to hides what agrees towards the frames' corners:
  // with what is known of it now, more matches and perhaps more frames fit
  for (let round = 0; motion === ROTATING && round < 3; round++) {
    const before = group.length;
    const known = (i: number): LensFit => {
      const like = solved.cameras.find((c, k) => c && lenses.of[k] === lenses.of[i]);
      return like ? fitOf(like) : undistorted(lenses.focalPx[i]!);
    };
    const again = withRow(known, verifyAll(known, listed));
    const more = largestGroup(n, again);
    if (more.length < before) break;
    group = more;
    verified = again;
    pairs = again.filter((p) => group.includes(p.a) && group.includes(p.b));
    solved = adjust(motion, frames, pairs, group, lenses, solved.cameras);
    if (group.length === before) break;
  }
  // matches that only looked right, and pairs made of them, go; then once more
  for (let round = 0; round < 3; round++) {
    const limit = Math.max(
      2.2 * (long / 4000),
      2.5 * median(solved.pairs.flatMap((p) => p.errors)),
    );
    const kept = solved.pairs
      .map((p) => ({ ...p, points: p.points.filter((_, i) => p.errors[i]! < limit) }))
      .filter((p) => p.points.length >= 7);
    const still = largestGroup(n, kept);
    if (
      kept.reduce((s, p) => s + p.points.length, 0) ===
        solved.pairs.reduce((s, p) => s + p.points.length, 0) ||
      still.length < 2
    )
      break;
    const back = pairs
      .map((p) => ({ ...p, points: kept.find((k) => k.a === p.a && k.b === p.b)?.points ?? [] }))
      .filter((p) => p.points.length && still.includes(p.a) && still.includes(p.b));
    solved = adjust(motion, frames, back, still, lenses, solved.cameras);
  }
  for (let round = 0; round < 2; round++) {
    // along a plane the cameras' leaning is too little known by then to say where a corner lies in
    // another frame
    const fine = refine(
      solved.cameras,
      round && motion === ROTATING
        ? withMore(solved.pairs, solved.cameras, features, scale)
        : solved.pairs,
    );
    const still = largestGroup(n, fine);
    if (still.length < solved.cameras.filter(Boolean).length) break;
    const turns = new Map(pairs.map((p) => [`${p.a}/${p.b}`, p]));
    const exact = fine.map((p) => ({ ...turns.get(`${p.a}/${p.b}`)!, points: p.points }));
    // exact ties of enough frames tell where the lens's axis meets them
    const exactly = {
      ...lenses,
      centreFree:
        motion === ROTATING &&
        still.length >= 4 &&
        frames.every((f, i) => {
          const first = frames[lenses.of.indexOf(lenses.of[i]!)]!;
          return f.width === first.width && f.height === first.height;
        }),
    };
    solved = adjust(motion, frames, exact, still, exactly, solved.cameras);
    const limit = Math.max(0.8 * scale, 3 * median(solved.pairs.flatMap((p) => p.errors)));
    const kept = solved.pairs
      .map((p) => ({ ...p, points: p.points.filter((_, i) => p.errors[i]! < limit) }))
      .filter((p) => p.points.length >= 6);
    if (largestGroup(n, kept).length === still.length)
      solved = adjust(
        motion,
        frames,
        kept.map((p) => ({ ...turns.get(`${p.a}/${p.b}`)!, points: p.points })),
        still,
        exactly,
        solved.cameras,
      );
  }
  const doubtful = motion === ROTATING ? doubtfulPlaces(solved.cameras, verified) : [];
  return {
    ...placed({ ...solved, cameras: motion.upright(solved.cameras) }),
    ...(doubtful.length ? { doubtful } : {}),
  };
}

/** Focal lengths that files tell belong to one lens if they differ by less than this. */
const ONE_LENS = 0.03;

/**
 * The lens of each frame, as the files tell: a zoom that was turned is another lens. Frames that do
 * not say have the usual one.
 */
function lensesOf(frames: readonly PanoramaFrame[], usual: number): Lenses {
  const focalPx = frames.map((f) => (f.focalPx && f.focalPx > 0 ? f.focalPx : usual));
  const found: { focalPx: number; width: number; height: number }[] = [];
  const of = frames.map((f, i) => {
    // a camera held upright is the same one
    const side = [f.width, f.height].sort((a, b) => b - a) as [number, number];
    const k = found.findIndex(
      (l) =>
        l.width === side[0] &&
        l.height === side[1] &&
        Math.abs(Math.log(l.focalPx / focalPx[i]!)) < ONE_LENS,
    );
    return k >= 0 ? k : found.push({ focalPx: focalPx[i]!, width: side[0], height: side[1] }) - 1;
  });
  return { focalPx: of.map((k) => found[k]!.focalPx), of, focalKnown: true };
}

/** The focal length at which the pairs agree best with a camera that only turned. */
function likeliestFocal<T>(
  verify: (focalPx: number, of: T[]) => VerifiedPair[],
  of: T[],
  long: number,
  focals: readonly number[],
): number | undefined {
  let best: { f: number; score: number } | undefined;
  const consider = (share: number): void => {
    const found = verify(share * long, of);
    const count = found.reduce((s, p) => s + p.points.length, 0);
    if (!count) return;
    // matches held, less for the error they are held with, in px of the frame
    const score = found.reduce(
      (s, p) => s + p.points.length / (1 + (p.rmsPx / (0.0012 * long)) ** 2),
      0,
    );
    if (!best || score > best.score) best = { f: share * long, score };
  };
  focals.forEach(consider);
  for (const k of [0.86, 0.93, 1.07, 1.16]) if (best) consider((best.f / long) * k);
  return best?.f;
}
