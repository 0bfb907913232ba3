import { onlyPartly, shiftOf, type Shift } from "./pairView";
import { oddsExpected, oddsOf, type PairStatistics } from "./pairStatistics";
import { clamp } from "../math/clamp";
import { median } from "../math/median";

export type SegmentKind = "bracket" | "panorama" | "focus";

/** Frames lie at most so far apart in one view, and at least so far in another: shares of a frame. */
const SAME_VIEW = 0.12;
const OTHER_VIEW = 0.15;

interface Rule {
  /** most frames, and the cost of claiming one */
  most: number;
  prior: number;
  /** log odds that frame j goes on the frames before it */
  goesOn(e: PairStatistics, members: readonly number[], j: number): number;
  /** log odds of the whole as it stands */
  whole(e: PairStatistics, members: readonly number[]): number;
}

const byPause = (
  pause: number | undefined,
  table: readonly (readonly [seconds: number, odds: number])[],
  longer: number,
): number => (pause === undefined ? 0 : (table.find(([s]) => pause <= s)?.[1] ?? longer));

/** Where a frame is expected whose camera did not move. */
const UNMOVED = { dx: 0, dy: 0 };
const farther = (p: Shift): boolean => shiftOf(p) >= SAME_VIEW;
/** Turn from frame to frame, as a share of it, below which hardly anyone sweeps. */
const LEAST_TURN = 0.18;
/** Correlation of two frames of one view at one exposure. */
const SAME_VIEW_CORRELATION = 0.8;
/** Log odds beyond which nothing more is asked. */
const CLEAR_ODDS = 2.5;

/** Log odds that frame j shows the view of the members: the best of the latest few decides. */
function sameView(
  e: PairStatistics,
  members: readonly number[],
  j: number,
  reach: number,
  within = SAME_VIEW,
): number {
  let best: number | undefined;
  let other = 0;
  for (const i of members.slice(-reach).reverse()) {
    const p = e.pair(i, j);
    if (!p) continue;
    const apart = shiftOf(p);
    const odds = onlyPartly(p) ? -1.2 : oddsOf(p.certainty);
    if (apart < within) {
      best = Math.max(best ?? -9, odds);
      if (odds > 4) break;
    } else if (apart > OTHER_VIEW && odds > 1) {
      // of two places that fit, the one that was to be expected
      const here = e.pairAt(i, j, UNMOVED);
      if (here && here.certainty > REPEATING_CERTAINTY)
        best = clamp(oddsExpected(here.certainty), best ?? -9, 1.5);
      else other = Math.max(other, odds);
    } else best = clamp(odds, best ?? -9, -1.2);
  }
  const blind = best === undefined && e.frames[j]!.signature !== undefined ? -0.7 : 0;
  return best !== undefined && best > 1 ? best : Math.max(-5, (best ?? blind) - other);
}

/** Certainty that an expected place hardly reaches by chance. */
const REPEATING_CERTAINTY = 5.5;

/**
 * Whether frame j differs from the member that is exposed most like it, where it is all but equal
 * to others, or they to each other.
 */
function belied(e: PairStatistics, members: readonly number[], j: number): boolean {
  const byStep = members
    .flatMap((i) => {
      const s = e.step(i, j);
      return s === undefined ? [] : [{ i, step: Math.abs(s) }];
    })
    .sort((a, b) => a.step - b.step);
  const [nearest] = byStep;
  const shown = nearest && nearest.step < 1.5 ? e.pairAt(nearest.i, j, UNMOVED) : undefined;
  if (!shown || shown.overlap < 0.3 || shown.correlation > 0.5) return false;
  const equal = (i: number, k: number): boolean =>
    (e.pairAt(i, k, UNMOVED)?.correlation ?? 0) > 0.9;
  // within a set, what is dark and what is bright may look different
  return (
    ((e.pause(members.at(-1)!, j) ?? 0) > 2 && equal(members.at(-2)!, members.at(-1)!)) ||
    byStep.some(({ i, step }) => step > nearest!.step + 0.5 && equal(i, j))
  );
}

/**
 * Whether frame j shows another view than the members, and than every one of the latest that can
 * tell.
 */
function otherView(e: PairStatistics, members: readonly number[], j: number): boolean {
  const recent = members.slice(-9).reverse();
  let other = false;
  for (const i of recent) {
    const seen = e.viewsOf(i, j);
    if (seen === "one") return false;
    if (seen === "two") other = true;
  }
  return other;
}
/** Log odds of a frame that shows another view: no clock and no exposure makes up for it. */
const VETO_ODDS = 20;

/** Log odds that the camera did not move: blur that comes and goes may draw a search elsewhere. */
function unmoved(e: PairStatistics, i: number, j: number): number {
  const p = e.pairAt(i, j, UNMOVED);
  return p && !onlyPartly(p) && oddsExpected(p.certainty) > 0
    ? Math.min(2, oddsExpected(p.certainty))
    : -9;
}

export const RULES: Record<SegmentKind, Rule> = {
  bracket: {
    most: 15,
    prior: -1,
    goesOn(e, members, j) {
      const last = members.at(-1)!;
      const steps = members.map((i) => e.step(i, j)).filter((s): s is number => s !== undefined);
      // what is clipped nearly all over can only be an end of the bracket, and shares little with
      // the others
      const signature = e.frames[j]!.signature;
      const before = e.frames[last]!.signature;
      const end =
        steps.length === 0 &&
        (((signature?.bright ?? 0) > 0.4 && (before?.dark ?? 1) < 0.2) ||
          ((signature?.dark ?? 0) > 0.4 && (before?.bright ?? 1) < 0.2));
      let exposure: number;
      if (steps.some((s) => Math.abs(s) < 0.2)) exposure = -6;
      else if (end) exposure = 1.2;
      else if (steps.length) {
        if (Math.min(...steps.map(Math.abs)) > 5) exposure = -1;
        else exposure = 1.5;
      } else exposure = -1;
      // nor is it to be expected that the brightest or darkest of a bracket looks like the others
      const extreme =
        steps.length > 0 &&
        ((steps.every((s) => s > 0) && (signature?.bright ?? 0) > 0.3) ||
          (steps.every((s) => s < 0) && (signature?.dark ?? 0) > 0.3));
      // that an exposure was taken once more tells of the next bracket, however alike the two look
      const view = sameView(e, members, j, 9);
      if (view < CLEAR_ODDS && otherView(e, members, j)) return -VETO_ODDS;
      return (
        exposure +
        clamp(view, extreme ? -0.8 : -9, exposure < -5 ? 1 : 9) -
        (members.length > 1 && belied(e, members, j) ? 12 : 0) +
        e.settings(last, j) +
        byPause(
          e.pause(last, j),
          [
            [1.6, 1.5],
            [4, 0.5],
            [15, -0.7],
            [90, -1],
          ],
          -2,
        )
      );
    },
    whole(e, members) {
      const evs = members
        .map((i) => (i === members[0] ? 0 : e.step(members[0]!, i)))
        .filter((v): v is number => v !== undefined)
        .sort((a, b) => a - b);
      const steps = evs.slice(1).map((v, i) => v - evs[i]!);
      const usual = median(steps);
      const odd = steps.filter(
        (s) =>
          Math.abs(s / Math.max(usual, 0.1) - Math.round(s / Math.max(usual, 0.1))) * usual > 0.4,
      ).length;
      const uneven = members.length % 2 ? 0.7 : 0;
      return (members.length === 2 ? -1 : uneven) - odd * 1.2;
    },
  },
  focus: {
    most: 200,
    prior: -2,
    goesOn(e, members, j) {
      const last = members.at(-1)!;
      const step = e.step(last, j);
      const a = e.frames[last]!.info.exif.focusDistance;
      const b = e.frames[j]!.info.exif.focusDistance;
      const changed = e.sharpnessChange(last, j);
      const sofar = e.sharpnessChange(members[0]!, j);
      const same = sameView(e, members, j, 3, 0.06);
      const still =
        same < 2 &&
        (step === undefined || Math.abs(step) < 0.34) &&
        (changed ?? 0) < MAX_SHARPNESS_CHANGE
          ? unmoved(e, last, j)
          : -9;
      if (Math.max(same, still) < CLEAR_ODDS && otherView(e, members, j)) return -VETO_ODDS;
      let travels: number;
      if (a !== undefined && b !== undefined) {
        if (a === b) travels = -2;
        else travels = 2;
      } else if (changed === undefined) travels = -1;
      else if (changed > MAX_SHARPNESS_CHANGE) {
        if (Math.max(same, still) < 0) travels = -4;
        else travels = -1.5;
      } else if (changed > 0.1 || (sofar ?? 0) > 0.25) travels = 0.8;
      else travels = -1.5;
      const exposure = step !== undefined && Math.abs(step) < 0.34 ? 0.4 : -5;
      return (
        (step === undefined ? -2 : exposure) +
        travels +
        clamp(
          Math.max(same, still) - 0.8,
          step !== undefined &&
            Math.abs(step) < 0.1 &&
            (e.pause(last, j) ?? 99) < 3 &&
            (changed ?? 0) < MAX_SHARPNESS_CHANGE
            ? -1.8
            : -5,
          3,
        ) +
        e.settings(last, j) +
        byPause(
          e.pause(last, j),
          [
            [1.6, 1.2],
            [5, 0.4],
            [20, -0.7],
            [45, -2],
          ],
          -4.5,
        )
      );
    },
    whole: (_, members) => {
      if (members.length >= 5) return 0.5;
      if (members.length === 4) return -0.5;
      if (members.length === 3) return -2;
      return -5;
    },
  },
  panorama: {
    most: 90,
    prior: -1.5,
    goesOn(e, members, j) {
      const last = members.at(-1)!;
      const step = e.step(last, j);
      const nearest = e.pair(last, j);
      let best = nearest && farther(nearest) ? oddsOf(nearest.certainty) : undefined;
      if ((best ?? 0) < CLEAR_ODDS) {
        // the camera turns on as it did before
        const turn = members.length > 1 ? e.pair(members.at(-2)!, last) : undefined;
        const onward =
          turn && farther(turn) && oddsOf(turn.certainty) > 1 ? e.pairAt(last, j, turn) : undefined;
        if (onward) best = clamp(oddsExpected(onward.certainty), best ?? -9, 4);
      }
      for (const [back, i] of (best ?? 0) < CLEAR_ODDS
        ? members.slice(-24).reverse().entries()
        : []) {
        const p = e.pair(i, j);
        if (!p) continue;
        const odds = oddsOf(p.certainty);
        // a view that is there already is no new part of the sweep, unless other frames know its
        // place; what only somewhat resembles it says nothing
        if (!farther(p)) {
          if (
            odds > 3 &&
            p.correlation > SAME_VIEW_CORRELATION &&
            !onlyPartly(p) &&
            (best ?? 0) < 1 &&
            members
              .slice(0, -back - 1)
              .slice(-3)
              .filter((k) => {
                const q = e.pair(k, j);
                return q && farther(q) && oddsOf(q.certainty) > 1;
              }).length < 2
          )
            return -4;
          continue;
        }
        // among many frames one fits by chance
        best = Math.max(best ?? -9, odds - Math.log(1 + back));
        if (best > CLEAR_ODDS) break;
      }
      const night = (i: number): boolean => (e.frames[i]!.signature?.dark ?? 0) > 0.5;
      // a sweep that hardly turns is sooner a focus run or a hand that moved
      if (best !== undefined && nearest && farther(nearest) && shiftOf(nearest) < LEAST_TURN)
        best = Math.min(best, 2);
      // a sweep's own frames may share too little to be sure of: what was taken at once with the
      // same settings is likely one, if it is not as night to day, nor plainly something else where
      // the frames before were plainly one
      const before = members.length > 1 ? e.pair(members.at(-2)!, last) : undefined;
      const plain =
        before && oddsOf(before.certainty) > CLEAR_ODDS && [last, j].every((i) => e.showsMuch(i));
      const floor =
        step !== undefined &&
        Math.abs(step) < 0.2 &&
        (e.pause(last, j) ?? 99) < 5 &&
        night(last) === night(j)
          ? -1.3
          : -2.5;
      // a camera left at one exposure for a whole row is not likely to change it within
      const set =
        members.length > 3 && members.slice(-4).every((i) => Math.abs(e.step(last, i) ?? 9) < 0.05);
      let exposure = 0.3;
      if (step === undefined) exposure = 0;
      else if (Math.abs(step) > 1.5) exposure = -4;
      else if (set && Math.abs(step) > 0.5) exposure = -3;
      return (
        exposure +
        (plain && (best ?? -9) < -2 ? -3.5 : Math.max(floor, best ?? -1.5)) +
        e.settings(last, j) +
        byPause(
          e.pause(last, j),
          [
            [5, 1],
            [15, 0.3],
            [60, -0.6],
            [150, -2],
          ],
          -4,
        )
      );
    },
    whole: (_, members) => (members.length === 2 ? -1 : 0),
  },
};

/** Change of sharpness from frame to frame, stops, beyond which it is hardly one focus travel. */
const MAX_SHARPNESS_CHANGE = 1.25;
/** Log odds of a frame beyond which a set does not go on. */
const BREAK_ODDS = -6;

export interface Segment {
  kind: SegmentKind | "single";
  from: number;
  to: number;
}

/** The same segments, those that belong to the panorama before them joined to it. */
export function joinWhere(
  segments: readonly Segment[],
  belongs: (before: Segment, s: Segment) => boolean,
): Segment[] {
  const out: Segment[] = [];
  for (const s of segments) {
    const before = out.at(-1);
    if (before?.kind === "panorama" && belongs(before, s)) before.to = s.to;
    else out.push({ ...s });
  }
  return out;
}

/**
 * Cuts a run of frames into stacks by the best sum of log odds over all cuts and kinds (dynamic
 * programming, as in Jackson et al., "An algorithm for optimal partitioning of data on an
 * interval", 2005). A frame by itself weighs nothing.
 *
 * @param apart  frames that stay by themselves whatever they look like
 */
export function bestSegments(
  e: PairStatistics,
  order: readonly number[],
  apart: ReadonlySet<number>,
): Segment[] {
  const n = order.length;
  const best = new Float64Array(n + 1).fill(-Infinity);
  const from: Segment[] = [];
  best[0] = 0;
  for (let i = 0; i < n; i++) {
    const take = (to: number, kind: Segment["kind"], odds: number): void => {
      if (best[i]! + odds > best[to]!) {
        best[to] = best[i]! + odds;
        from[to] = { kind, from: i, to };
      }
    };
    take(i + 1, "single", 0);
    if (apart.has(order[i]!)) continue;
    for (const kind of ["bracket", "panorama", "focus"] as const) {
      const rule = RULES[kind];
      const members = [order[i]!];
      let odds = rule.prior;
      let highest = odds;
      for (let j = i + 1; j < n && members.length < rule.most && !apart.has(order[j]!); j++) {
        const next = rule.goesOn(e, members, order[j]!);
        odds += next;
        members.push(order[j]!);
        highest = Math.max(highest, odds);
        // no later frames, however well they go together, make up for this
        if (next < BREAK_ODDS || odds < highest - 8 || (members.length === 2 && odds < -6)) break;
        take(j + 1, kind, odds + rule.whole(e, members));
      }
    }
  }
  const out: Segment[] = [];
  for (let at = n; at > 0; at = from[at]!.from) out.unshift(from[at]!);
  return out;
}
