import { solveSymmetric } from "../math/solveSymmetric";
import { median } from "../math/median";
import { IDENTITY, invert, multiply, type Matrix3 } from "../math/matrix3";

/**
 * How a frame lies against another one, by their places along the focus travel: px of `from` to px
 * of `to`, reduced.
 */
export interface RunLink {
  from: number;
  to: number;
  transform: readonly number[];
}

/**
 * Rounds of the adjustment: it is all but linear, since frames of a run lie nearly on each other.
 */
const ROUNDS = 6;
/** Px that no link is known better than. */
const MIN_LINK_ERROR_PX = 0.003;
/** Weight of the chain where frames are linked by nothing else. */
const CHAIN_WEIGHT = 1e-6;

/**
 * The ways of a run's frames that all links between them, to neighbours and beyond, there and back,
 * agree with best: each way is changed by a small matrix near the identity, whose entries a link
 * sees as the difference of two, so that one system of equations, solved for each entry, tells all.
 * What a kind of link (as many steps long) is worth is taken from the links themselves: from how
 * neighbours there and back differ, and longer ones from what is between them. Frames that differ
 * more in focus err together, too, which no difference shows; so longer ones count by the square of
 * that.
 *
 * @param ways    of each place, px of the reference to its own, as the chain of neighbours tells;
 *   the reference's stays
 * @param middle  place of the reference
 * @see Lu and Milios, "Globally consistent range scan alignment for environment mapping",
 *   Autonomous Robots 1997
 */
export function joinLinks(
  ways: readonly Matrix3[],
  middle: number,
  links: readonly RunLink[],
  { width: w, height: h }: { width: number; height: number },
): number[][] {
  const n = ways.length;
  const side = Math.max(w, h) / 2;
  const toUnit = [1 / side, 0, -w / 2 / side, 0, 1 / side, -h / 2 / side, 0, 0, 1];
  const fromUnit = invert(toUnit);
  const inUnits = (m: Matrix3): number[] => multiply(toUnit, multiply(m, fromUnit));
  let units = ways.map(inUnits);
  const measured = links.map((l): RunLink => ({ ...l, transform: inUnits(l.transform) }));
  const kinds = worth(measured, side);
  const equations = [
    ...measured.map((l) => ({ ...l, weight: kinds.get(Math.abs(l.to - l.from))! })),
    ...ways.slice(1).map((_, k) => ({
      from: k,
      to: k + 1,
      transform: multiply(units[k + 1]!, invert(units[k]!)),
      weight: CHAIN_WEIGHT,
    })),
  ];
  for (let round = 0; round < ROUNDS; round++) {
    const off = equations.map(({ from, to, transform }) =>
      apart(transform, multiply(units[to]!, invert(units[from]!))),
    );
    const lengths = off.map(sizeOf);
    const usual = median(lengths.slice(0, links.length)) + MIN_LINK_ERROR_PX / side;
    const A = Array.from({ length: n }, () => new Array<number>(n).fill(0));
    const b = Array.from({ length: 9 }, () => new Array<number>(n).fill(0));
    equations.forEach(({ from, to, weight }, k) => {
      // a link that errs on its own gives way to those about it; which of them err shows once all
      // were heard
      const value = round ? weight / (1 + (lengths[k]! / (2 * usual)) ** 2) ** 2 : weight;
      A[from]![from]! += value;
      A[to]![to]! += value;
      A[from]![to]! -= value;
      A[to]![from]! -= value;
      off[k]!.forEach((v, c) => {
        b[c]![to]! += value * v;
        b[c]![from]! -= value * v;
      });
    });
    for (let k = 0; k < n; k++) A[middle]![k] = A[k]![middle] = k === middle ? 1 : 0;
    const moves = b.map((entry) =>
      solveSymmetric(
        A,
        entry.map((v, k) => (k === middle ? 0 : v)),
      ),
    );
    units = units.map((m, k) =>
      scaled(
        multiply(
          IDENTITY.map((v, c) => v + (moves[c]?.[k] ?? 0)),
          m,
        ),
      ),
    );
  }
  return smoothBreathing(units, middle, measured).map((m, k) =>
    k === middle ? [...ways[k]!] : scaled(multiply(fromUnit, multiply(m, toUnit))),
  );
}

const scaled = (m: Matrix3): number[] => m.map((v) => v / m[8]!);
/** What is to be added to the identity so that it takes `found` to `stated`. */
const apart = (equations: Matrix3, found: Matrix3): number[] =>
  scaled(multiply(equations, invert(found))).map((v, c) => v - IDENTITY[c]!);
const sizeOf = (difference: readonly number[]): number => Math.hypot(...difference);

/** The weight of links by how many steps long they are; 1 for neighbours. */
function worth(links: readonly RunLink[], side: number): Map<number, number> {
  const at = new Map(links.map((l) => [`${l.from} ${l.to}`, l]));
  const steps = [...new Set(links.map((l) => Math.abs(l.to - l.from)))];
  const variance = new Map<number, number>();
  const squares = (of: (l: RunLink) => Matrix3 | undefined, length: number): number =>
    median(
      links
        .filter((l) => Math.abs(l.to - l.from) === length)
        .flatMap((l) => {
          const other = of(l);
          return other ? [sizeOf(apart(l.transform, other)) ** 2] : [];
        }),
    );
  const one = Math.max(
    (MIN_LINK_ERROR_PX / side) ** 2,
    squares((l) => {
      const back = at.get(`${l.to} ${l.from}`);
      return back && invert(back.transform);
    }, 1) / 2,
  );
  for (const length of steps) {
    const along = ({ from, to }: RunLink): Matrix3 | undefined => {
      let way: Matrix3 | undefined = IDENTITY;
      for (let k = from; way && k !== to; k += Math.sign(to - from)) {
        const next = at.get(`${k} ${k + Math.sign(to - from)}`);
        way = next && multiply(next.transform, way);
      }
      return way;
    };
    variance.set(length, length === 1 ? one : Math.max(one, squares(along, length) - length * one));
  }
  return new Map(steps.map((length) => [length, (one / variance.get(length)!) ** 2]));
}

/** Jumps of growth that are so many times the usual are a step of another width, and stay. */
const JUMP_FACTOR = 3;
/** Smoothing goes no further than to forget this many times what is known of a step. */
const MAX_SMOOTHING = 50;
/** Median of the square of a normal variable of variance 1. */
const NORMAL_MEDIAN_SQUARE = 0.455;

/**
 * Breathing is a lens's own and grows evenly from step to step as long as the steps are even; what
 * a hand adds is not. How far the growth of neighbouring steps differs, against how well it is
 * known, tells how much it may be smoothed: nothing where a hand moves more than the measure errs.
 */
function smoothBreathing(
  units: readonly Matrix3[],
  middle: number,
  links: readonly RunLink[],
): Matrix3[] {
  const growth = (m: Matrix3): number => Math.log(m[0]! * m[4]! - m[1]! * m[3]!) / 2;
  const steps = units.slice(1).map((m, k) => growth(multiply(m, invert(units[k]!))));
  const n = steps.length;
  const jumps = steps.slice(1).map((g, k) => g - steps[k]!);
  const at = new Map(links.map((l) => [`${l.from} ${l.to}`, growth(l.transform)]));
  const seen = (from: number, to: number): number[] => {
    const g = at.get(`${from} ${to}`);
    return g === undefined ? [] : [g];
  };
  // twice the variance of a step from there and back, three times from two that are a longer one
  const errors = links.flatMap(({ from, to }) => {
    if (to - from === 1)
      return seen(from, to).flatMap((g) => seen(to, from).map((back) => (g + back) ** 2 / 2));
    if (to - from === 2)
      return seen(from, to).flatMap((g) =>
        seen(from, from + 1).flatMap((a) => seen(from + 1, to).map((b) => (g - a - b) ** 2 / 3)),
      );
    return [];
  });
  const known = median(errors) / NORMAL_MEDIAN_SQUARE;
  const spread = median(jumps.map((d) => d * d)) / NORMAL_MEDIAN_SQUARE;
  const own = Math.max(spread - 2 * known, known / MAX_SMOOTHING);
  if (jumps.length < 3 || !(own > 0)) return [...units];
  let smooth = steps;
  for (let round = 0; round < ROUNDS; round++) {
    const A = Array.from({ length: n }, (_, i) =>
      Array.from({ length: n }, (_, j) => (i === j ? 1 : 0)),
    );
    smooth.slice(1).forEach((g, k) => {
      const jump = steps[k + 1]! - steps[k]!;
      const value =
        known /
        own /
        (1 +
          Math.max((g - smooth[k]!) ** 2, jump ** 2 - 2 * known) /
            (JUMP_FACTOR ** 2 * (own + 2 * known))) **
          2;
      A[k]![k]! += value;
      A[k + 1]![k + 1]! += value;
      A[k]![k + 1]! -= value;
      A[k + 1]![k]! -= value;
    });
    smooth = solveSymmetric(A, steps) ?? steps;
  }
  const added = units.map(() => 0);
  for (let k = middle + 1; k <= n; k++) added[k] = added[k - 1]! + smooth[k - 1]! - steps[k - 1]!;
  for (let k = middle - 1; k >= 0; k--) added[k] = added[k + 1]! - (smooth[k]! - steps[k]!);
  return units.map((m, k) => {
    const z = Math.exp(added[k]!);
    return multiply([z, 0, 0, 0, z, 0, 0, 0, 1], m);
  });
}
