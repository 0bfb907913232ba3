import type { PairStatistics } from "./pairStatistics";
import { COLOUR_CODES, SHARP_X, SHARP_Y } from "./signature";
import { median } from "../math/median";

/**
 * Neighbours have to overlap this surely for their colours to be held against each other, and in so
 * many cells.
 */
const MIN_CERTAINTY = 6;
const MIN_CELLS = 6;

/**
 * How far white balance drifts along a sweep: the range, in EV, over which red and blue wander
 * against green, added up from what neighbouring frames both show. Nothing where they share too
 * little to tell.
 */
export function colourDrift(
  e: PairStatistics,
  frames: readonly number[],
): { red: number; blue: number } | undefined {
  const at = [[0], [0]] as [number[], number[]];
  const cells = SHARP_X * SHARP_Y;
  for (let k = 1; k < frames.length; k++) {
    const i = frames[k - 1]!;
    const j = frames[k]!;
    const a = e.frames[i]!.signature?.colour;
    const b = e.frames[j]!.signature?.colour;
    const p = e.pair(i, j);
    if (!a || !b || !p || p.certainty < MIN_CERTAINTY) return undefined;
    const steps: [number[], number[]] = [[], []];
    for (let y = 0; y < SHARP_Y; y++)
      for (let x = 0; x < SHARP_X; x++) {
        const u = Math.floor(x + 0.5 - p.dx * SHARP_X);
        const v = Math.floor(y + 0.5 - p.dy * SHARP_Y);
        if (u < 0 || v < 0 || u >= SHARP_X || v >= SHARP_Y) continue;
        for (const q of [0, 1] as const) {
          const mine = a[q * cells + y * SHARP_X + x]!;
          const theirs = b[q * cells + v * SHARP_X + u]!;
          if (mine && theirs) steps[q].push(theirs - mine);
        }
      }
    if (steps[0].length < MIN_CELLS) return undefined;
    for (const q of [0, 1] as const) at[q].push(at[q].at(-1)! + median(steps[q]) / COLOUR_CODES);
  }
  const [red, blue] = at.map((v) => Math.max(...v) - Math.min(...v)) as [number, number];
  return { red, blue };
}
