import type { VerifiedPair } from "../ties/verifyPair";
import { median } from "../../math/median";

/**
 * Turns from frame to frame that are known, at least, and how far one may be from the usual:
 * degrees, and a share of it.
 */
const MIN_KNOWN_TURNS = 3;
const MAX_STEP_DEGREES = 4;
const MAX_STEP_SHARE = 0.3;

/**
 * Completes a row by pairs of frames that follow each other of which few matches agree, as in
 * clouds or on plain walls: they are believed where the turn that they agree on is the one by which
 * the row goes on elsewhere. Matches that agree by chance hardly do so in just this way.
 *
 * @param pairs    that are held by many
 * @param weakly   a pair held by few, if it is
 * @returns pairs that were added
 */
export function alongRow(
  pairs: readonly VerifiedPair[],
  count: number,
  weakly: (a: number, b: number) => VerifiedPair | undefined,
): VerifiedPair[] {
  const step = (a: number): VerifiedPair | undefined =>
    pairs.find((p) => p.a === a && p.b === a + 1);
  const turns = Array.from({ length: count - 1 }, (_, a) => step(a))
    .filter((p) => p !== undefined)
    .map((p) => axisOf(p.leads));
  if (turns.length < MIN_KNOWN_TURNS) return [];
  const usual = [0, 1, 2].map((k) => median(turns.map((t) => t[k]!)));
  const within = Math.max(
    (MAX_STEP_DEGREES * Math.PI) / 180,
    MAX_STEP_SHARE * Math.hypot(...usual),
  );
  const near = (t: readonly number[]): boolean =>
    Math.hypot(...t.map((v, k) => v - usual[k]!)) < within;
  // a row that turns by no usual amount tells nothing
  if (turns.filter(near).length * 3 < turns.length * 2) return [];
  return Array.from({ length: count - 1 }, (_, a) =>
    step(a) ? undefined : weakly(a, a + 1),
  ).filter((p) => p !== undefined && near(axisOf(p.leads))) as VerifiedPair[];
}

/** A turn's axis by its angle in radians (the logarithm of the rotation). */
function axisOf(m: readonly number[]): [number, number, number] {
  const half = [0, 1, 2]
    .map(
      (k) =>
        [
          [7, 5],
          [2, 6],
          [3, 1],
        ][k]!,
    )
    .map(([i, j]) => (m[i!]! - m[j!]!) / 2) as [number, number, number];
  const sine = Math.hypot(...half);
  const angle = Math.atan2(sine, (m[0]! + m[4]! + m[8]! - 1) / 2);
  const by = sine < 1e-9 ? 1 : angle / sine;
  return [half[0] * by, half[1] * by, half[2] * by];
}
