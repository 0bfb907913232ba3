import type { Heap } from "../../kernels/heap";
import type { Accumulator } from "../raster/accumulator";
import { areasOf } from "./areas";
import { ranked, type Suspect } from "./suspect";

/**
 * Where neighbouring pixels are from frames so far apart, as a share of the travel and in steps,
 * one thing stands before another.
 */
const MIN_DEPTH_JUMP = 0.15;
const MIN_JUMP_STEPS = 3;
/**
 * Px off such an edge at which a halo that is seen has not ended yet, at which it has, and from
 * where on what the ground itself does is reported.
 */
const HALO_FROM_TO_PX = [4, 6] as const;
const FAR = [9, 13] as const;
const FARTHER = [14, 19] as const;
/**
 * Side of the cells over which both are averaged, px, and how many pixels of each tell; px that
 * hardly say more than one of them.
 */
const CELL = 32;
const GROUND_FROM_PX = 120;
const CORRELATED_PX_FACTOR = 16;
/**
 * Share of its light by which a ground beside an edge is drawn towards what stands there, to be
 * worth a look; by which the two have to differ; in standard errors of the mean, and times what the
 * ground goes on to change by; and cells beside each other.
 */
const VISIBLE_SHARE = 0.05;
const MIN_SIDE_DIFFERENCE = 0.15;
const MIN_SIGMA = 3;
const MIN_GROUND_FACTOR = 2;
const MIN_CELLS_TOGETHER = 2;

/** Sums over pixels. */
interface Band {
  count: number;
  sum: number;
  squares: number;
}
const BANDS = ["near", "far", "farther", "beyond"] as const;
/** Of a cell: the ground near an edge, off it and farther off, and what stands beyond the edge. */
type Cell = Record<(typeof BANDS)[number], Band>;
const empty = (): Band => ({ count: 0, sum: 0, squares: 0 });
const emptyCell = (): Cell => ({ near: empty(), far: empty(), farther: empty(), beyond: empty() });
const add = (b: Band, v: number): void => {
  b.count++;
  b.sum += v;
  b.squares += v * v;
};
const mean = (b: Band): number => b.sum / b.count;

/**
 * Halos of a focus stack: along edges at which its focus jumps, grounds that are drawn towards the
 * light of what stands there further than two or three pixels off, as the blur of a nearer thing
 * lies over them in every frame that shows them sharp.
 *
 * @param acc      the merged scene at 1/downscale of full size
 * @param sources  address of which frame, counted from one, was sharpest at each pixel
 * @param order    places of the frames along the travel
 */
export function fusionHalos(
  heap: Heap,
  acc: Accumulator,
  sources: number,
  order: readonly number[],
  downscale: number,
): Suspect[] {
  const { width: w, height: h, ptr, planeBytes } = acc;
  const n = w * h;
  const [R, G, B] = [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const from = heap.u8(sources, n);
  const at = new Int16Array(256).fill(-1);
  const place = new Int16Array(n);
  const across = Math.ceil(w / CELL);
  const down = Math.ceil(h / CELL);
  const excess = new Float32Array(across * down);
  order.forEach((frame, k) => {
    at[frame + 1] = k;
  });
  for (let k = 0; k < n; k++) place[k] = at[from[k]!]!;
  const sides = distances(place, w, Math.max(MIN_JUMP_STEPS, MIN_DEPTH_JUMP * order.length));
  for (const [s, own] of sides.entries()) {
    const other = sides[1 - s]!;
    const cells = Array.from(excess, emptyCell);
    for (let y = 0, k = 0; y < h; y++)
      for (let x = 0; x < w; x++, k++) {
        const d = own[k]!;
        const e = other[k]!;
        if (!d && !e) continue;
        const c = cells[Math.floor(y / CELL) * across + Math.floor(x / CELL)]!;
        const light = 0.25 * R[k]! + 0.5 * G[k]! + 0.25 * B[k]!;
        if (d >= HALO_FROM_TO_PX[0] && d <= HALO_FROM_TO_PX[1]) add(c.near, light);
        if (d >= FAR[0] && d <= FAR[1]) add(c.far, light);
        if (d >= FARTHER[0]) add(c.farther, light);
        // a hair is hardly more than its edges
        if (e && e <= FAR[0]) add(c.beyond, light);
      }
    cells.forEach((c, i) => {
      if (c.near.count) excess[i] = Math.max(excess[i]!, haloOf(withNeighbours(cells, across, i)));
    });
  }
  return ranked(
    areasOf(
      across,
      down,
      (i) => excess[i]! > 0,
      MIN_CELLS_TOGETHER,
      (i) => excess[i]!,
    ).map((a): Suspect => ({
      kind: "halo",
      x: a.x0 * CELL * downscale,
      y: a.y0 * CELL * downscale,
      width: (Math.min(w, a.x1 * CELL) - a.x0 * CELL) * downscale,
      height: (Math.min(h, a.y1 * CELL) - a.y0 * CELL) * downscale,
      score: Math.round(Math.min(1, 2 * a.mean * Math.min(1, 0.5 + a.cells / 8)) * 1000) / 1000,
    })),
    12,
  );
}

/**
 * Share of its light by which a ground is drawn towards what stands before or behind it; 0 where
 * that is not to be reported.
 */
function haloOf({ near, far, farther, beyond }: Cell): number {
  if (
    [near, far, farther].some((b) => b.count < GROUND_FROM_PX) ||
    beyond.count < GROUND_FROM_PX / 3
  )
    return 0;
  const ground = Math.max(1e-6, mean(far));
  const off = (mean(near) - ground) / ground;
  const drawn = (mean(beyond) - ground) / ground;
  const goesOn = Math.abs(mean(farther) - ground) / ground;
  const spread =
    Math.sqrt(
      Math.max(0, far.squares / far.count - ground * ground) *
        CORRELATED_PX_FACTOR *
        (1 / near.count + 1 / far.count),
    ) / ground;
  return Math.abs(drawn) > MIN_SIDE_DIFFERENCE &&
    off * drawn > 0 &&
    Math.abs(off) > Math.max(VISIBLE_SHARE, MIN_SIGMA * spread, MIN_GROUND_FACTOR * goesOn)
    ? Math.abs(off)
    : 0;
}

/** A cell and those round it, over which the grounds' own pattern evens out. */
function withNeighbours(cells: readonly Cell[], across: number, i: number): Cell {
  const all = emptyCell();
  const x = i % across;
  for (const dy of [-across, 0, across])
    for (const dx of [-1, 0, 1]) {
      const c = x + dx >= 0 && x + dx < across ? cells[i + dy + dx] : undefined;
      if (c)
        for (const band of BANDS) {
          all[band].count += c[band].count;
          all[band].sum += c[band].sum;
          all[band].squares += c[band].squares;
        }
    }
  return all;
}

/**
 * Px from the nearest edge at which the focus jumps, over what lies at one depth, once on the side
 * of what is further along the travel and once on the other; 0 where there is none so near.
 * Octagonal: by sides and by sides and corners in turn.
 */
function distances(place: Int16Array, w: number, jump: number): [Uint8Array, Uint8Array] {
  const sides = [0, 1].map(() => ({ out: new Uint8Array(place.length), latest: [] as number[] }));
  const mark = (side: number, k: number, far: number, list: number[]): void => {
    const { out } = sides[side]!;
    if (!out[k]) {
      out[k] = far;
      list.push(k);
    }
  };
  const compare = (k: number, q: number): void => {
    const off = place[k]! < 0 || place[q]! < 0 ? 0 : place[k]! - place[q]!;
    if (Math.abs(off) < jump) return;
    for (const [side, p] of off > 0 ? [k, q].entries() : [q, k].entries())
      mark(side, p, 1, sides[side]!.latest);
  };
  for (let k = 0; k < place.length; k++) {
    if ((k + 1) % w) compare(k, k + 1);
    if (k + w < place.length) compare(k, k + w);
  }
  const around = [1, -1, w, -w, w + 1, w - 1, 1 - w, -1 - w];
  const inside = (k: number, q: number): boolean =>
    q >= 0 && q < place.length && Math.abs((q % w) - (k % w)) <= 1 && place[q]! >= 0;
  for (const [side, s] of sides.entries())
    for (let far = 2; far <= FARTHER[1]; far++) {
      const next: number[] = [];
      for (const k of s.latest)
        for (let d = 0; d < (far % 2 ? 8 : 4); d++) {
          const q = k + around[d]!;
          if (inside(k, q) && Math.abs(place[q]! - place[k]!) < jump / 2) mark(side, q, far, next);
        }
      s.latest = next;
    }
  return [sides[0]!.out, sides[1]!.out];
}
