import type { FrameInfo } from "../frame/frame";
import { captureOrder } from "./captureOrder";
import { shiftOf } from "./pairView";
import { describe } from "./describe";
import {
  PairStatistics,
  isCovered,
  oddsOf,
  type ComparedPairs,
  type Member,
} from "./pairStatistics";
import type { FoundStack } from "./foundStack";
import { joinFloor } from "./joinFloor";
import { joinRows } from "./joinRows";
import type { FrameSignature } from "./signature";
import { separateSeries } from "./separateSeries";
import { bestSegments } from "./segments";
import { clamp } from "../math/clamp";

/**
 * Finds the stacks in what was brought in: cameras apart (by model and serial number, folder and
 * series of names), frames in the order of their taking, cut where the sum of the statistics is
 * highest: pauses, exposures, settings, and what the frames look like. No single sign decides: a
 * set goes on over a minute's wait, and two rooms within two seconds are two.
 *
 * @param signatures  of the same frames; without them the settings and the clock have to do
 * @param gapSeconds  a longer pause ends every set; none unless given
 * @param compared  pairs compared before, of frames with these keys; what is found is added to it
 * @returns stacks in capture order; every frame in exactly one
 */
export function groupFrames(
  frames: readonly FrameInfo[],
  signatures: readonly (FrameSignature | undefined)[] = [],
  gapSeconds?: number,
  compared?: { keys: readonly string[]; pairs: ComparedPairs },
): FoundStack[] {
  const all = frames.map((info, i): Member => ({
    key: compared?.keys[i] ?? String(i),
    info,
    ...(signatures[i] ? { signature: signatures[i] } : {}),
  }));
  const statistics = new PairStatistics(all, gapSeconds, compared?.pairs);
  const covered = new Set(all.flatMap((m, i) => (isCovered(m) ? [i] : [])));
  return namingOddCounts(
    captureOrder(frames)
      .flatMap((list) => separateSeries(statistics, list))
      .flatMap((order) => {
        const found = joinFloor(
          statistics,
          order,
          joinRows(statistics, order, bestSegments(statistics, order, covered)),
        ).map((s) => describe(statistics, s.kind, order.slice(s.from, s.to), covered));
        return nested(statistics, found);
      }),
  );
}

/**
 * Brackets that fall short of what most of the day's have, where no gap between exposures tells so
 * already.
 */
function namingOddCounts(stacks: FoundStack[]): FoundStack[] {
  const brackets = stacks.flatMap((s) => s.members ?? [s]).filter((s) => s.kind === "bracket");
  const counts = new Map<number, number>();
  for (const b of brackets) counts.set(b.frames.length, (counts.get(b.frames.length) ?? 0) + 1);
  const [usual, times] = [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0] ?? [0, 0];
  if (times >= 3 && times * 2 > brackets.length)
    for (const b of brackets)
      if (b.frames.length === usual - 1 && !b.warnings.some((w) => w.code === "exposure-missing"))
        b.warnings.push({
          code: "frame-missing",
          message: `${b.frames.length} exposures, where ${usual} are usual this day`,
        });
  return stacks;
}

/** So many of a sweep's sets are looked back at: two rows of it. */
const SETS_LOOKED_BACK = 24;

/** Stacks of one kind whose views overlap one after the other are the parts of a panorama. */
function nested(e: PairStatistics, stacks: readonly FoundStack[]): FoundStack[] {
  const out: FoundStack[] = [];
  let run: FoundStack[] = [];
  const close = (): void => {
    out.push(
      ...(run.length > 1
        ? [
            describe(
              e,
              "panorama",
              run.flatMap((s) => s.frames),
              new Set(),
              run,
            ),
          ]
        : run),
    );
    run = [];
  };
  for (const s of stacks) {
    const latest = run.slice(-SETS_LOOKED_BACK);
    const goesOn =
      run.length > 0 &&
      s.kind === run[0]!.kind &&
      Math.abs(s.frames.length - run[0]!.frames.length) <= 1 &&
      latest.some((before) => overlaps(e, before, s)) &&
      !latest.some((before) => sameView(e, before, s)) &&
      (e.pause(run.at(-1)!.frames.at(-1)!, s.frames[0]!) ?? 0) < 120;
    if (!goesOn) close();
    if (s.kind === "bracket" || s.kind === "focus") run.push(s);
    else out.push(s);
  }
  close();
  return out;
}

/** Pairs of frames of two stacks with the same settings. */
function* likePairs(e: PairStatistics, a: FoundStack, b: FoundStack): Generator<[number, number]> {
  for (const [k, i] of a.frames.entries()) {
    const like =
      b.frames.find(
        (j) => e.ev[i] !== undefined && e.ev[j] !== undefined && Math.abs(e.ev[i] - e.ev[j]) < 0.2,
      ) ?? (e.ev[i] === undefined ? b.frames[k] : undefined);
    if (like !== undefined) yield [i, like];
  }
}

/**
 * How two stacks' views lie: of all places that some pair of their frames tells of, the one that
 * all their pairs together fit best. What one exposure takes for the same place, since it shows
 * nothing but stripes, another one knows better.
 */
function viewBetween(
  e: PairStatistics,
  a: FoundStack,
  b: FoundStack,
): { dx: number; dy: number; odds: number } | undefined {
  const pairs = [...likePairs(e, a, b)];
  const seen = pairs
    .flatMap(([i, j]) => {
      const p = e.pair(i, j);
      return p && p.certainty > MIN_CERTAINTY ? [p] : [];
    })
    .sort((p, q) => q.certainty - p.certainty);
  const guesses = seen
    .filter(
      (p, k) => !seen.slice(0, k).some((q) => shiftOf({ dx: p.dx - q.dx, dy: p.dy - q.dy }) < 0.03),
    )
    .slice(0, 2);
  let best: { dx: number; dy: number; odds: number; sum: number } | undefined;
  for (const guess of guesses) {
    const views = pairs.flatMap(([i, j]) => {
      const own = e.pair(i, j);
      const there = e.pairAt(i, j, guess);
      if (
        own &&
        shiftOf({ dx: own.dx - guess.dx, dy: own.dy - guess.dy }) < 0.06 &&
        own.certainty > (there?.certainty ?? 0)
      )
        return [own];
      if (there) return [there];
      return [];
    });
    // stripes fit where they lie without being the same ones: of one view, some exposure is all but
    // equal
    if (shiftOf(guess) < 0.1 && !views.some((p) => p.correlation > SAME_VIEW_CORRELATION)) continue;
    const [first, ...others] = views.map((p) => p.certainty).sort((p, q) => q - p);
    const sum = views.reduce((s, p) => s + p.certainty, 0);
    if (first === undefined || (best && sum <= best.sum)) continue;
    // exposures of one view are no independent witnesses, but several that agree are believed
    // sooner than one
    const agreed =
      e.ev[a.frames[0]!] === undefined
        ? 0
        : Math.min(
            1,
            others.reduce((s, c) => s + clamp(oddsOf(c) + 0.8, 0, 0.8), 0),
          );
    best = {
      dx: guess.dx,
      dy: guess.dy,
      sum,
      odds: oddsOf(first) + agreed - 0.8 * others.filter((c) => c <= 1.5).length,
    };
  }
  return best;
}
const SAME_VIEW_CORRELATION = 0.85;
/** Below this a pair's best place is as good as any. */
const MIN_CERTAINTY = 2.5;

function overlaps(e: PairStatistics, a: FoundStack, b: FoundStack): boolean {
  if (e.settings(a.frames[0]!, b.frames[0]!) < -5) return false;
  // the sets of one sweep are exposed alike, but for a frame that was lost
  if ([...likePairs(e, a, b)].length < Math.min(a.frames.length, b.frames.length) - 1) return false;
  const view = viewBetween(e, a, b);
  const pause = e.pause(a.frames.at(-1)!, b.frames[0]!) ?? 10;
  // right after each other they need less, after a while more
  let wanted = 2.5;
  if (pause > 15) wanted = 3.5;
  else if (pause < 8 && a.frames.length === b.frames.length) wanted = 0.3;
  return view !== undefined && shiftOf(view) > 0.12 && shiftOf(view) < 0.95 && view.odds > wanted;
}
/** Whether two stacks show one view. */
function sameView(e: PairStatistics, a: FoundStack, b: FoundStack): boolean {
  const view = viewBetween(e, a, b);
  return view !== undefined && shiftOf(view) < 0.1 && view.odds > 3;
}
