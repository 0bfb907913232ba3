import type { FrameInfo } from "../frame/frame";
import type { PairStatistics } from "./pairStatistics";

/** Seconds between frames of two series that were taken beside each other. */
const BESIDE_SECONDS = 15;
/**
 * Changes from one series to another and back within such pauses, from which on two are at work at
 * once.
 */
const FEWEST_SWITCHES = 2;

/**
 * Separates the frames of two bodies at work at once: two photographers on one job, or one with two
 * cameras of a model that writes no serial number. Series of file names (folder, and the name
 * before its last number) whose frames alternate in time are two bodies unless they show one view;
 * where the names do not tell, frames that go back and forth between two views are.
 *
 * @param order  frames of one camera in the order of their taking
 * @returns one order for each body; every frame in exactly one
 */
export function separateSeries(e: PairStatistics, order: readonly number[]): number[][] {
  return separateNames(e, order).map((own) => unbraid(e, own));
}

/**
 * What a file's name has in common with the others of its camera: the folder, and all but the last
 * number.
 */
function seriesOf({ folder = "", name }: FrameInfo): string {
  const parts = /^(.*?)\d+(\D*)$/.exec(name.replace(/\.[^.]*$/, ""));
  return `${folder}/${parts ? `${parts[1]}#${parts[2]}` : "*"}`;
}

function separateNames(e: PairStatistics, order: readonly number[]): number[][] {
  const all = new Map<string, number[]>();
  for (const i of order) {
    const series = seriesOf(e.frames[i]!.info);
    const own = all.get(series);
    if (own) own.push(i);
    else all.set(series, [i]);
  }
  const place = new Map(order.map((i, k) => [i, k]));
  const inOrder = (list: readonly number[]): number[] =>
    [...list].sort((a, b) => place.get(a)! - place.get(b)!);
  const bodies: number[][][] = [];
  for (const series of all.values()) {
    const home = bodies.find((body) =>
      body.every((other) => !atOnce(e, inOrder([...other, ...series]), new Set(series))),
    );
    if (home) home.push(series);
    else bodies.push([series]);
  }
  return bodies.map((body) => inOrder(body.flat()));
}

/**
 * Whether two series' frames alternate, and where they meet do not show one view more often than
 * two: the names have the first word.
 */
function atOnce(e: PairStatistics, both: readonly number[], second: ReadonlySet<number>): boolean {
  const meetings = both
    .slice(1)
    .flatMap((j, k) =>
      second.has(both[k]!) !== second.has(j) &&
      (e.pause(both[k]!, j) ?? BESIDE_SECONDS) < BESIDE_SECONDS
        ? [[both[k]!, j] as const]
        : [],
    );
  if (meetings.length < FEWEST_SWITCHES) return false;
  let one = 0;
  let two = 0;
  for (const [i, j] of meetings) {
    const seen = e.viewsOf(i, j);
    if (seen === "one") one++;
    else if (seen === "two") two++;
  }
  return two >= one;
}

/**
 * Sorts frames that go back and forth between two views into the one view's and then the other's:
 * frame k shows another view than frame k - 1 and the same as k - 2, again and again.
 */
function unbraid(e: PairStatistics, order: readonly number[]): number[] {
  const out: number[] = [];
  const returns = (k: number): boolean =>
    k >= 2 &&
    k < order.length &&
    (e.pause(order[k - 2]!, order[k]!) ?? Infinity) < BESIDE_SECONDS &&
    e.viewsOf(order[k - 1]!, order[k]!) === "two" &&
    e.viewsOf(order[k - 2]!, order[k]!) === "one";
  for (let k = 0; k < order.length;) {
    let end = k + 2;
    while (returns(end)) end++;
    // each of the two has come back at least once
    if (end - k < 4) {
      out.push(order[k++]!);
      continue;
    }
    const braid = order.slice(k, end);
    out.push(...braid.filter((_, i) => i % 2 === 0), ...braid.filter((_, i) => i % 2 === 1));
    k = end;
  }
  return out;
}
