import { halveWindow, type LogWindow } from "./logWindow";

/** A place that texture may be taken from, px from the repair, and how unlike its rim is. */
export interface Source {
  dx: number;
  dy: number;
  cost: number;
}

/** A repair's place in a window: what is replaced, and the rim by which places are compared. */
export interface Place {
  /** x and y in turn */
  hole: Int32Array;
  rim: Int32Array;
  /** how much each place of the rim counts */
  weights: Float32Array;
  /** half the width of the hole, px */
  radius: number;
}

/** Half-width of the hole at which all places are tried, cells. */
const COARSE_RADIUS = 4;
/** How far sources may lie, in half-widths of the hole; and at least, px. */
const REACH_RADII = 5;
const LEAST_REACH = 24;
/** Sources that are followed from coarse to fine. */
const FOLLOWED = 40;
/** Places of the rim that are compared, at most. */
const MOST_RIM = 420;
/** Share of a rim that a source must have. */
const LEAST_RIM = 0.7;
/** How much of a difference in mean light is forgiven: it is made up for later. */
const FORGIVEN = 0.95;

/** How far from a hole its source is looked for, px. */
export const sourceReach = (radius: number): number =>
  Math.max(LEAST_REACH, Math.ceil(radius * REACH_RADII));

/**
 * Finds the places whose surroundings are most like those of a hole, but for their light: all near
 * ones on a small copy, the best of them more exactly on larger ones.
 *
 * @param most  sources that are wanted; fewer come back where there are no more
 * @returns     the most alike first
 */
export function findSources(window: LogWindow, place: Place, most: number): Source[] {
  const levels: { window: LogWindow; place: Place }[] = [{ window, place }];
  while (levels[0]!.place.radius > COARSE_RADIUS * 1.5)
    levels.unshift({
      window: halveWindow(levels[0]!.window),
      place: halvePlace(levels[0]!.place),
    });
  let found = allSources(levels[0]!.window, levels[0]!.place, FOLLOWED);
  for (const level of levels.slice(1)) found = refined(level.window, level.place, found);
  return apart(found, most);
}

function halvePlace({ hole, rim, weights, radius }: Place): Place {
  const holeCells = new Set<number>();
  for (let i = 0; i < hole.length; i += 2) holeCells.add(cellOf(hole, i));
  const rimCells = new Map<number, number>();
  for (let i = 0; i < rim.length; i += 2) {
    const cell = cellOf(rim, i);
    if (!holeCells.has(cell)) rimCells.set(cell, (rimCells.get(cell) ?? 0) + weights[i / 2]!);
  }
  return {
    hole: placesOfCells([...holeCells]),
    rim: placesOfCells([...rimCells.keys()]),
    weights: Float32Array.from(rimCells.values()),
    radius: radius / 2,
  };
}

/** Cells are numbered in rows that are longer than any window. */
const ROW = 1 << 15;
const cellOf = (places: Int32Array, i: number): number =>
  (places[i + 1]! >> 1) * ROW + (places[i]! >> 1);
const placesOfCells = (cells: readonly number[]): Int32Array =>
  Int32Array.from(cells.flatMap((cell) => [cell % ROW, Math.floor(cell / ROW)]));

/** Every source in reach, the best of each neighbourhood, the most alike first. */
function allSources(window: LogWindow, place: Place, most: number): Source[] {
  const reach = Math.ceil(Math.max(place.radius * REACH_RADII, COARSE_RADIUS * 2));
  const compare = comparer(window, place);
  const found: Source[] = [];
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) {
      const cost = compare(dx, dy);
      if (cost < Infinity) found.push({ dx, dy, cost });
    }
  return apart(found, most);
}

/** The best at a finer size beside each of those that were found. */
function refined(window: LogWindow, place: Place, coarse: readonly Source[]): Source[] {
  const compare = comparer(window, place);
  return coarse.flatMap(({ dx, dy }) => {
    let best: Source = { dx: 0, dy: 0, cost: Infinity };
    for (let v = 2 * dy - 1; v <= 2 * dy + 1; v++)
      for (let u = 2 * dx - 1; u <= 2 * dx + 1; u++) {
        const cost = compare(u, v);
        if (cost < best.cost) best = { dx: u, dy: v, cost };
      }
    return best.cost < Infinity ? [best] : [];
  });
}

/** The most alike that are not next to each other. */
function apart(found: Source[], most: number): Source[] {
  const kept: Source[] = [];
  for (const source of found.sort((a, b) => a.cost - b.cost)) {
    if (kept.length === most) break;
    const near = kept.some(
      (other) => Math.abs(other.dx - source.dx) < 2 && Math.abs(other.dy - source.dy) < 2,
    );
    if (!near) kept.push(source);
  }
  return kept;
}

/** Gives what a source costs: the mean squared difference of the rims without their mean one. */
function comparer(
  { width, height, colour, usable }: LogWindow,
  { hole, rim, weights }: Place,
): (dx: number, dy: number) => number {
  const step = Math.max(1, Math.ceil(weights.length / MOST_RIM));
  const isUsable = (x: number, y: number): boolean =>
    x >= 0 && y >= 0 && x < width && y < height && usable[y * width + x] === 1;
  const compared: number[] = [];
  for (let i = 0; i < weights.length; i += step)
    if (isUsable(rim[2 * i]!, rim[2 * i + 1]!)) compared.push(i);
  const holeStep = Math.max(1, Math.ceil(hole.length / 2 / MOST_RIM)) * 2;
  return (dx, dy) => {
    for (let i = 0; i < hole.length; i += holeStep)
      if (!isUsable(hole[i]! + dx, hole[i + 1]! + dy)) return Infinity;
    let total = 0;
    let there = 0;
    let squares = 0;
    const sums = [0, 0, 0];
    for (const i of compared) {
      const weight = weights[i]!;
      total += weight;
      const x = rim[2 * i]!;
      const y = rim[2 * i + 1]!;
      if (!isUsable(x + dx, y + dy)) continue;
      there += weight;
      const own = (y * width + x) * 3;
      const other = ((y + dy) * width + x + dx) * 3;
      for (let c = 0; c < 3; c++) {
        const difference = colour[other + c]! - colour[own + c]!;
        sums[c]! += weight * difference;
        squares += weight * difference * difference;
      }
    }
    if (!(there > LEAST_RIM * total)) return Infinity;
    const forgiven = sums.reduce((sum, s) => sum + s * s, 0) * (FORGIVEN / there);
    return (squares - forgiven) / (3 * there);
  };
}
