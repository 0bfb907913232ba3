import { type FrameSignature, evBetween } from "./signature";
import { type PairView, shiftOf, onlyPartly, SAME_PLACE_SHIFT } from "./pairView";
import { pyramidOf, type Level } from "./sphereLevels";
import { scoreOf, correlate } from "./correlate";
import { type Affine, type Fit, refine, SAMPLE_AREA, place, at } from "./fitAffine";
import { clamp } from "../math/clamp";
import { alikeParts } from "./alikeParts";

/**
 * Finds the shift under which two frames correlate best: all shifts at a quarter of the signature's
 * size, the best few refined. Log luminance turns exposure into an offset, which correlation
 * ignores; slow changes of brightness, which all skies and vignettes share, are taken out first. On
 * the sphere round the camera a turn is nearly a shift, so both frames are warped onto it.
 *
 * @param focal  focal length in long edges of the frame
 * @param step  EV of the second against the first by their settings: where light is not what they
 *   let expect lies another thing
 * @returns undefined when the frames differ in shape or share nothing well exposed
 * @see Lewis, "Fast normalized cross-correlation", 1995
 */
export function comparePair(
  a: FrameSignature,
  b: FrameSignature,
  focal?: number,
  step?: number,
): PairView | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  let best: PairView | undefined;
  for (const [f, tilt] of focal ? lensOf(focal) : UNKNOWN_LENS) {
    const found = compareOnSphere(pyramidOf(a, f, tilt), pyramidOf(b, f, tilt), step);
    if (found && (!best || found.certainty > best.certainty)) best = found;
    // a wrong guess of lens or tilt still shows something of what is there
    if (!best || best.certainty > SURE_CERTAINTY || best.certainty < HOPELESS_CERTAINTY) break;
  }
  return best;
}

/**
 * The same for a guess of where the second frame lies, in shares of the first: what the two tell of
 * that place and no other.
 */
export function compareAt(
  a: FrameSignature,
  b: FrameSignature,
  focal: number | undefined,
  guess: { dx: number; dy: number },
  step?: number,
): PairView | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  let best: PairView | undefined;
  for (const [f, tilt] of focal ? lensOf(focal) : UNKNOWN_LENS) {
    const A = pyramidOf(a, f, tilt);
    const { w, h } = A.at(-1)!;
    const found = refined(A, pyramidOf(b, f, tilt), [{ dx: guess.dx * w, dy: guess.dy * h }], step);
    if (
      found &&
      shiftOf({ dx: found.dx - guess.dx, dy: found.dy - guess.dy }) < 0.06 &&
      (!best || found.certainty > best.certainty)
    )
      best = found;
  }
  return best;
}
/** Rows above and below the horizon are about so far tilted, degrees. */
const ROW_TILT_DEGREES = 20;
const lensOf = (focal: number) =>
  [
    [focal, 0],
    [focal, ROW_TILT_DEGREES],
    [focal, -ROW_TILT_DEGREES],
  ] as const;
const UNKNOWN_LENS = [
  [0.75, 0],
  [0.5, 0],
  [0.6, ROW_TILT_DEGREES],
  [0.6, -ROW_TILT_DEGREES],
] as const;
/** No other guess is tried beyond this. */
const SURE_CERTAINTY = 7;
const HOPELESS_CERTAINTY = 2.6;

function compareOnSphere(A: Level[], B: Level[], step?: number): PairView | undefined {
  const top = A.length - 1;
  const { w, h } = A[top]!;
  const reachX = Math.floor(w * 0.86);
  const reachY = Math.floor(h * 0.86);
  // most frames of a set lie nearly where the one before did: then nothing else need be tried
  const near = refined(A, B, [{ dx: 0, dy: 0 }], step);
  const partly = near !== undefined && onlyPartly(near);
  if (near && !partly && near.certainty > BEYOND_CHANCE && shiftOf(near) < 0.1) return near;
  let found: { dx: number; dy: number; score: number }[] = [];
  for (let dy = -reachY; dy <= reachY; dy++)
    for (let dx = -reachX; dx <= reachX; dx++) {
      const score = scoreOf(correlate(A[top]!, B[top]!, dx, dy));
      // what they lie on each other by is known, and hides how far the camera turned
      if (score > 0.2 && !(partly && shiftOf({ dx: dx / w, dy: dy / h }) < SAME_PLACE_SHIFT))
        found.push({ dx, dy, score });
    }
  found.sort((p, q) => q.score - p.score);
  found = distinct(found, 2, step === undefined ? 3 : 8);
  if (step !== undefined)
    found = found
      .map((f) => ({
        ...f,
        score: f.score * exposureTrust(gainOf(A[top]!, B[top]!, [1, 0, -f.dx, 0, 1, -f.dy]), step),
      }))
      .sort((p, q) => q.score - p.score)
      .slice(0, 3);
  const far = refined(A, B, found, step);
  return near && (!far || (!partly && near.certainty >= far.certainty)) ? near : far;
}
/**
 * How far a place is believed by its light against what the settings let expect, 0..1: repeated
 * things look alike but are seldom lit alike. Flash, clouds and the camera's own tone curve leave
 * it somewhat worth.
 */
const exposureTrust = (gainEv: number, step: number): number =>
  Math.max(0.25, 1 / (1 + ((gainEv - step) / (0.5 + 0.2 * Math.abs(step))) ** 2));
/** Beyond all chance, which reaches about 5. */
const BEYOND_CHANCE = 18;

/** The best of some shifts at a quarter of the size, refined. */
function refined(
  A: Level[],
  B: Level[],
  found: readonly { dx: number; dy: number }[],
  step?: number,
): PairView | undefined {
  const finer = (guesses: Affine[], level: number, rounds: number): Fit[] =>
    guesses
      .map((g) => refine(A[level]!, B[level]!, doubled(g), rounds))
      .filter((g): g is Fit => g !== undefined)
      .sort((p, q) => scoreOf(q) - scoreOf(p));
  const half = finer(
    found.map((f): Affine => [1, 0, -f.dx, 0, 1, -f.dy]),
    1,
    4,
  )[0];
  const best = half && finer([half.map], 0, 2)[0];
  if (!best) return undefined;
  const { w: fw, h: fh } = A[0]!;
  const [mx, my] = middleOf(best.map, fw, fh);
  // neighbouring samples say the same: one in SAMPLE_AREA is independent
  const gainEv = gainOf(A[0]!, B[0]!, best.map);
  const certainty =
    (step === undefined ? 1 : exposureTrust(gainEv, step)) *
    Math.atanh(clamp(best.r, -0.999, 0.999)) *
    Math.sqrt(Math.max(0, best.n / SAMPLE_AREA - 3));
  const shift = { dx: mx / fw, dy: my / fh };
  return {
    correlation: best.r,
    overlap: best.n / best.area,
    ...shift,
    gainEv,
    certainty,
    ...alikeWhereNear(shiftOf(shift), A[0]!, B[0]!, best.map),
  };
}
const doubled = ([a, b, c, d, e, f]: Affine): Affine => [a, b, c * 2, d, e, f * 2];

function middleOf([a, b, c, d, e, f]: Affine, w: number, h: number): [number, number] {
  const det = a * e - b * d || 1;
  const u = w / 2 - c;
  const v = h / 2 - f;
  return [(e * u - b * v) / det - w / 2, (a * v - d * u) / det - h / 2];
}

/** Only frames that lie on each other are asked which of their parts fit. */
function alikeWhereNear(shift: number, a: Level, b: Level, map: Affine): Pick<PairView, "alike"> {
  const alike = shift < SAME_PLACE_SHIFT ? alikeParts(a, b, map) : undefined;
  return alike === undefined ? {} : { alike };
}

/**
 * The share of textured parts that correlate if neither frame is moved; seen coarsely, so that a
 * shake does not matter.
 */
export function alikeAsTheyLie(a: FrameSignature, b: FrameSignature): number | undefined {
  if (a.width !== b.width || a.height !== b.height) return undefined;
  const [A, B] = [a, b].map((signature) => pyramidOf(signature, ...UNKNOWN_LENS[0])[1]!) as [
    Level,
    Level,
  ];
  return alikeParts(A, B, [1, 0, 0, 0, 1, 0]);
}

/** EV of b against a where both show the same: the median of the differences of their codes. */
function gainOf(a: Level, b: Level, map: Affine): number {
  const counts = new Int32Array(511);
  let n = 0;
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++)
      if (place(a, b, map, x, y)) {
        counts[255 + b.code[at.i]! - a.code[y * a.w + x]!]!++;
        n++;
      }
  let below = 0;
  let middle = 0;
  while (middle < 510 && (below += counts[middle]!) <= n >> 1) middle++;
  return n ? evBetween(0, middle - 255) : 0;
}

/** The best few that are not neighbours of a better one. */
function distinct<T extends { dx: number; dy: number }>(
  sorted: readonly T[],
  distance: number,
  most: number,
): T[] {
  const kept: T[] = [];
  for (const f of sorted) {
    if (kept.length === most) break;
    if (kept.every((k) => Math.max(Math.abs(k.dx - f.dx), Math.abs(k.dy - f.dy)) >= distance))
      kept.push(f);
  }
  return kept;
}
