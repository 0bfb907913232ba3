import type { SharpMap } from "./sharpMap";
import { median } from "../math/median";

export interface FocusOrder {
  /** places of the frames from one end of the focus travel to the other */
  order: number[];
  /** what it was taken from: the given order, the focus distances in the files, or the pixels */
  from: "given" | "distances" | "pixels";
  /** the order by the files, where it is from the pixels: what it was held against */
  stated: { order: number[]; from: "given" | "distances" };
  /** places of frames in which nothing is as sharp as in others */
  blurred: number[];
}

/**
 * Share of the given order's way that another one has to take at most: at a travel's ends, where
 * little is sharp, all look alike.
 */
const MAX_LENGTH_SHARE = 0.88;

/**
 * The order of a focus run, checked by its pixels: neighbours are sharp at the same places, so the
 * shortest way through all frames is the travel, and of one that went there and back again both
 * ways in one. Where the files tell how far each frame was focused, that order or the given one is
 * taken, whichever is the shorter way; it stays unless another is far shorter still. Nearest
 * neighbours from several ends, then parts turned round (2-opt) and moved elsewhere, as long as
 * that helps.
 *
 * @param distances  metres, as far as the files tell
 * @see Croes, "A method for solving traveling-salesman problems", Operations Research 1958; Or, PhD
 *   thesis, Northwestern University 1976
 */
export function focusOrder(
  maps: readonly SharpMap[],
  distances: readonly (number | undefined)[] = [],
): FocusOrder {
  const n = maps.length;
  const cells = maps[0]?.values.length ?? 0;
  const given = maps.map((_, i) => i);
  if (n < 3)
    return { order: given, from: "given", stated: { order: given, from: "given" }, blurred: [] };
  const apart = differences(maps.map(spread));
  const way = (o: readonly number[]): number => lengthThrough(apart, o);
  const stated = byDistance(given, distances);
  const from = stated && way(stated) < way(given) - 1e-9 ? "distances" : "given";
  const first = from === "distances" ? stated! : given;
  const found = [
    first,
    ...Array.from({ length: Math.min(n, 8) }, (_, k) =>
      nearestFirst(apart, Math.floor((k * n) / Math.min(n, 8))),
    ),
  ]
    .map((start) => shortened(apart, start))
    .reduce((best, o) => (way(o) < way(best) - 1e-9 ? o : best));
  const better =
    !isOrdered(found.map((i) => first.indexOf(i))) && way(found) < MAX_LENGTH_SHARE * way(first);
  const order = better ? found : [...first];
  const relative = relativeSharpness(maps);
  if (order.indexOf(0) > order.indexOf(n - 1)) order.reverse();
  const best = relative.map((r) => [...r].sort((p, q) => q - p)[Math.floor(cells * 0.02)]!);
  return {
    order,
    from: better ? "pixels" : from,
    stated: { order: first, from },
    blurred: best.flatMap((v, i) => (v < 0.25 ? [i] : [])),
  };
}

/**
 * An order found from the pixels of frames as they were taken, once more from frames that lie on
 * each other, which tell more: of many that are nearly alike a hand's sway makes another order seem
 * the shorter way where the one that the files tell is right.
 */
export function settledOrder(
  warped: readonly SharpMap[],
  { order, from, stated }: Pick<FocusOrder, "order" | "from" | "stated">,
): Pick<FocusOrder, "order" | "from"> {
  if (from !== "pixels") return { order, from };
  const apart = differences(warped);
  const found = shortened(apart, order);
  return lengthThrough(apart, found) < MAX_LENGTH_SHARE * lengthThrough(apart, stated.order)
    ? { order: found, from }
    : stated;
}

const lengthThrough = (apart: readonly (readonly number[])[], order: readonly number[]): number =>
  order.slice(1).reduce((s, b, k) => s + apart[order[k]!]![b]!, 0);

/** The frames by how far they were focused, nearest first, if every file tells. */
function byDistance(
  given: readonly number[],
  distances: readonly (number | undefined)[],
): number[] | undefined {
  // nothing is focused at no distance: cameras write that where they do not know
  return given.every((i) => (distances[i] ?? 0) > 0)
    ? [...given].sort((a, b) => distances[a]! - distances[b]! || a - b)
    : undefined;
}

/**
 * How differently two frames are sharp over the picture: the angle between their sharpness in all
 * cells that the focus changes, in radians.
 */
function differences(maps: readonly SharpMap[]): number[][] {
  const top = Float32Array.from(maps[0]!.values, (_, c) =>
    Math.max(...maps.map((m) => m.values[c]!)),
  );
  const cells = [...top.keys()].filter(
    (c) => top[c]! - Math.min(...maps.map((m) => m.values[c]!)) > MIN_SHARPNESS_CHANGE,
  );
  const relative = relativeSharpness(maps).map((r) => cells.map((c) => r[c]!));
  const lengths = relative.map((r) => Math.hypot(...r, 1e-6));
  return relative.map((a, i) =>
    relative.map((b, j) =>
      i === j
        ? 0
        : Math.acos(
            Math.min(1, a.reduce((s, v, c) => s + v * b[c]!, 0) / (lengths[i]! * lengths[j]!)),
          ),
    ),
  );
}

/** Doublings of sharpness by which the focus has to change a cell for it to tell anything. */
const MIN_SHARPNESS_CHANGE = 2;

/**
 * Each cell's sharpness with that of its neighbours, a tent of three cells, since a hand shifts
 * what lies in a cell.
 */
function spread({ width: w, height: h, values }: SharpMap): SharpMap {
  const light = values.map((v) => 2 ** v);
  return {
    width: w,
    height: h,
    values: values.map((_, i) => {
      let sum = 0;
      let all = 0;
      for (let v = -1; v <= 1; v++)
        for (let u = -1; u <= 1; u++) {
          const x = (i % w) + u;
          const y = Math.floor(i / w) + v;
          const share = (u ? 1 : 2) * (v ? 1 : 2);
          if (x >= 0 && y >= 0 && x < w && y < h) {
            sum += share * light[y * w + x]!;
            all += share;
          }
        }
      return Math.log2(sum / all);
    }),
  };
}

function nearestFirst(apart: readonly (readonly number[])[], start: number): number[] {
  const order = [start];
  const left = new Set(apart.keys());
  left.delete(start);
  while (left.size) {
    const row = apart[order.at(-1)!]!;
    const next = [...left].reduce((best, i) => (row[i]! < row[best]! ? i : best));
    order.push(next);
    left.delete(next);
  }
  return order;
}

function shortened(apart: readonly (readonly number[])[], start: readonly number[]): number[] {
  const n = start.length;
  const d = (a: number | undefined, b: number | undefined): number =>
    a === undefined || b === undefined ? 0 : apart[a]![b]!;
  let order = [...start];
  for (let better = true; better;) {
    better = false;
    for (let i = 0; i < n - 1; i++)
      for (let j = i + 1; j < n; j++) {
        if (
          d(order[i - 1], order[j]) + d(order[i], order[j + 1]) >
          d(order[i - 1], order[i]) + d(order[j], order[j + 1]) - 1e-9
        )
          continue;
        order = [...order.slice(0, i), ...order.slice(i, j + 1).reverse(), ...order.slice(j + 1)];
        better = true;
      }
    for (let size = 1; size <= 3; size++)
      for (let i = 0; i + size <= n; i++) {
        const part = order.slice(i, i + size);
        const rest = [...order.slice(0, i), ...order.slice(i + size)];
        const freed =
          d(order[i - 1], part[0]) +
          d(part.at(-1), order[i + size]) -
          d(order[i - 1], order[i + size]);
        for (let j = 0; j <= rest.length; j++)
          for (const p of [part, [...part].reverse()]) {
            if (
              j === i ||
              d(rest[j - 1], p[0]) + d(p.at(-1), rest[j]) - d(rest[j - 1], rest[j]) > freed - 1e-9
            )
              continue;
            order = [...rest.slice(0, j), ...p, ...rest.slice(j)];
            better = true;
            j = rest.length;
            break;
          }
      }
  }
  return order;
}

/** Against the sharpest that any frame has in a cell, so that texture itself does not count. */
const relativeSharpness = (maps: readonly SharpMap[]): Float32Array[] => {
  const top = Float32Array.from(maps[0]!.values, (_, c) =>
    Math.max(...maps.map((m) => m.values[c]!)),
  );
  return maps.map((m) => m.values.map((v, c) => Math.exp(Math.max(-6, (v - top[c]!) * 1.2))));
};
/** How far two frames are sharp at the same places, 0 to 1. */
const likeness = (a: Float32Array, b: Float32Array): number => {
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let c = 0; c < a.length; c++) {
    ab += a[c]! * b[c]!;
    aa += a[c]! ** 2;
    bb += b[c]! ** 2;
  }
  return (ab / Math.sqrt(aa * bb + 1e-12)) ** 4;
};

/**
 * A step whose two frames are sharp at so much fewer common places than those of the other steps
 * was too wide.
 */
const MISSED_STEP_LIKENESS = 0.4;
/** Frames this much alike show the same focus twice, whenever they were taken. */
const SAME_FOCUS_LIKENESS = 0.985;
/**
 * Of frames that were not taken one after another, as of a way there and one back, those do that
 * differ less than this, and by less than this share of what the frames on either side of them do.
 */
const SAME_FOCUS_DIFFERENCE = 0.32;
const AGAIN_SHARE = 0.48;
/**
 * Where so many such pairs show that the travel was turned back at one moment, others about that
 * moment are believed with this much more difference.
 */
const TURNED_BACK = 4;
const SAME_FOCUS_RATIO = 1.2;

/**
 * What the steps between neighbours along a focus travel leave to be wished, by maps of frames that
 * lie on each other: places in `order` after which a step is missing, and pairs of frames that are
 * sharp at the same places.
 */
export function travelFaults(
  maps: readonly SharpMap[],
  order: readonly number[],
): { gaps: number[]; twice: [number, number][] } {
  if (order.length < 4) return { gaps: [], twice: [] };
  const relative = relativeSharpness(maps);
  const steps = order.slice(1).map((b, k) => likeness(relative[order[k]!]!, relative[b]!));
  const usual = median(steps);
  // only beside steps that are as they should be: at a travel's ends nothing may be sharp at all
  const gaps = steps.flatMap((v, k) =>
    v < MISSED_STEP_LIKENESS * usual &&
    v < MISSED_STEP_LIKENESS * Math.max(steps[k - 1] ?? 0, steps[k + 1] ?? 0) * 1.2
      ? [k]
      : [],
  );
  const apart = differences(maps);
  const between = (k: number, by: number): number => apart[order[k]!]?.[order[k + by]!] ?? 0;
  const again = (k: number, more = 1): boolean =>
    Math.abs(order[k]! - order[k + 1]!) > 1 &&
    between(k, 1) <
      more *
        Math.min(SAME_FOCUS_DIFFERENCE, AGAIN_SHARE * Math.max(between(k - 1, 2), between(k, 2)));
  // frames of a way there and back are taken as long before its turn as after it
  const sums = steps
    .flatMap((_, k) => (again(k) ? [order[k]! + order[k + 1]!] : []))
    .sort((a, b) => a - b);
  const turn = sums.length >= TURNED_BACK ? sums[sums.length >> 1]! : undefined;
  const mirrored = (k: number): boolean =>
    turn !== undefined && Math.abs(order[k]! + order[k + 1]! - turn) <= 1;
  return {
    gaps,
    twice: steps.flatMap((v, k): [number, number][] =>
      (v > SAME_FOCUS_LIKENESS && v > usual + 0.5 * (1 - usual)) ||
      again(k, mirrored(k) ? SAME_FOCUS_RATIO : 1)
        ? [[order[k]!, order[k + 1]!]]
        : [],
    ),
  };
}

/**
 * Whether frames were taken in the order of the focus travel, but for a few neighbours that are too
 * alike to tell.
 */
export const isOrdered = (order: readonly number[]): boolean =>
  order.every((v, i) => Math.abs(v - i) <= 1);
