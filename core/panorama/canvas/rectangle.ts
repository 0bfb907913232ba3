import { solveSymmetric } from "../../math/solveSymmetric";
import type { Bend } from "./bend";
import { lineSegments, type Segment } from "../../features/lineSegments";
import { insertSeams } from "../seams/seamInsertion";
import { clamp } from "../../math/clamp";

/** Vertices of the mesh, about; columns of the regular mesh that comes out. */
const VERTICES = 260;
const ANGLE_BINS_FINE = 72;
/**
 * Weights of straight lines and of the borders against the shape of the meshes; directions that are
 * kept parallel together.
 */
const LINE_WEIGHT = 100;
const BORDER_WEIGHT = 1e6;
const DIRECTION_BINS = 50;
const ROUNDS = 5;

/** Share of the rectangle that has to be there. */
const MIN_COVERED_SHARE = 0.45;

type Point = [number, number];
interface Mesh {
  columns: number;
  rows: number;
  x: Float64Array;
  y: Float64Array;
}
/**
 * Of a piece of a line in one mesh: which, how its vertices make up the piece's direction, and that
 * direction as it was.
 */
interface Piece {
  quad: number;
  weights: readonly number[];
  was: Point;
  bin: number;
  angle: number;
}

/**
 * A picture that was bent to a rectangle: its size against the flat one, and where its parts come
 * from, in shares of it.
 */
export interface Rectangled {
  width: number;
  height: number;
  bend: Bend;
}

/**
 * Bends a picture with uneven borders to a full rectangle, so that meshes keep their shape and
 * straight lines stay straight. A first mesh comes from doubled seams; then all vertices are set
 * together (least squares), the directions of lines turning in common.
 *
 * @param grey    w x h cells, in even steps to the eye; @param full  1 where there is a picture
 * @param closed  the picture goes all round: its sides stay where they are and meet as they met
 * @returns undefined where no such mesh was found: too much is missing, or meshes would fold
 * @see He, Chang, Sun, "Rectangling panoramic images via warping", SIGGRAPH 2013
 */
export function bendToRectangle(
  w: number,
  h: number,
  grey: Float32Array,
  full: Uint8Array,
  closed = false,
): Rectangled | undefined {
  let there = 0;
  for (let i = 0; i < w * h; i++) there += full[i]!;
  const shifted =
    there > MIN_COVERED_SHARE * w * h ? insertSeams(w, h, grey, full, closed) : undefined;
  if (!shifted) return undefined;
  const columns = Math.max(4, Math.round(Math.sqrt((VERTICES * w) / h)));
  const rows = Math.max(4, Math.round(VERTICES / columns));
  const size = (columns + 1) * (rows + 1);
  const from: Mesh = { columns, rows, x: new Float64Array(size), y: new Float64Array(size) };
  const to: Mesh = { columns, rows, x: new Float64Array(size), y: new Float64Array(size) };
  for (let j = 0, k = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++, k++) {
      to.x[k] = (i / columns) * w;
      to.y[k] = (j / rows) * h;
      const at = Math.min(h - 1, Math.floor(to.y[k]!)) * w + Math.min(w - 1, Math.floor(to.x[k]!));
      // the cell's own edge where the mesh ends
      from.x[k] = shifted.x[at]! + inner(i, columns);
      from.y[k] = shifted.y[at]! + inner(j, rows);
    }
  // both sides of a full turn are one
  if (closed)
    for (let j = 0; j <= rows; j++) {
      const l = j * (columns + 1);
      const r = l + columns;
      from.x[l] = 0;
      from.x[r] = w;
      from.y[l] = from.y[r] = (from.y[l]! + from.y[r]!) / 2;
    }
  const pieces = lineSegments(w, h, grey, full).flatMap((s) => cut(s, from));
  const turns = new Float64Array(DIRECTION_BINS);
  for (let round = 0; round < ROUNDS; round++) {
    if (!settle(from, to, pieces, turns, w, h, closed)) return undefined;
    const sums = new Float64Array(DIRECTION_BINS);
    const counts = new Float64Array(DIRECTION_BINS);
    for (const p of pieces) {
      const [x, y] = directionOf(p, to);
      const turn = Math.atan2(y, x) - p.angle;
      sums[p.bin]! += Math.atan2(Math.sin(turn), Math.cos(turn));
      counts[p.bin]!++;
    }
    for (let b = 0; b < DIRECTION_BINS; b++) turns[b] = counts[b] ? sums[b]! / counts[b]! : 0;
  }
  if (folds(to)) return undefined;
  // the rectangle's sides as long as keeps the meshes about their size
  let sx = 0;
  let sy = 0;
  for (let q = 0; q < columns * rows; q++) {
    const extent = (p: Float64Array): number => {
      const v = corners(q, columns).map((k) => p[k]!);
      return Math.max(...v) - Math.min(...v);
    };
    sx += extent(to.x) / extent(from.x);
    sy += extent(to.y) / extent(from.y);
  }
  const bend = regular(from, to, w, h);
  if (!bend) return undefined;
  // a full turn is as wide as it was
  return closed
    ? { width: 1, height: sx / sy, bend: { ...bend, closed } }
    : { width: (columns * rows) / sx, height: (columns * rows) / sy, bend };
}

const corners = (quad: number, columns: number): [number, number, number, number] => {
  const k = Math.floor(quad / columns) * (columns + 1) + (quad % columns);
  return [k, k + 1, k + columns + 1, k + columns + 2];
};

/**
 * Place within a mesh, u and v from 0 to 1 (Newton's method on the bilinear map); undefined
 * outside.
 */
function within(m: Mesh, quad: number, x: number, y: number): Point | undefined {
  const [a, b, c, d] = corners(quad, m.columns).map((k): Point => [m.x[k]!, m.y[k]!]) as [
    Point,
    Point,
    Point,
    Point,
  ];
  const lo = (i: 0 | 1): number => Math.min(a[i], b[i], c[i], d[i]) - 1e-6;
  const hi = (i: 0 | 1): number => Math.max(a[i], b[i], c[i], d[i]) + 1e-6;
  if (x < lo(0) || x > hi(0) || y < lo(1) || y > hi(1)) return undefined;
  let u = 0.5;
  let v = 0.5;
  for (let i = 0; i < 12; i++) {
    const f = (k: 0 | 1): number =>
      a[k] * (1 - u) * (1 - v) + b[k] * u * (1 - v) + c[k] * (1 - u) * v + d[k] * u * v;
    const du = (k: 0 | 1): number => (b[k] - a[k]) * (1 - v) + (d[k] - c[k]) * v;
    const dv = (k: 0 | 1): number => (c[k] - a[k]) * (1 - u) + (d[k] - b[k]) * u;
    const ex = x - f(0);
    const ey = y - f(1);
    const det = du(0) * dv(1) - du(1) * dv(0);
    if (Math.abs(det) < 1e-12) return undefined;
    u += (ex * dv(1) - ey * dv(0)) / det;
    v += (ey * du(0) - ex * du(1)) / det;
  }
  return u > -1e-3 && u < 1.001 && v > -1e-3 && v < 1.001
    ? [clamp(u, 0, 1), clamp(v, 0, 1)]
    : undefined;
}
const bilinear = ([u, v]: Point): [number, number, number, number] => [
  (1 - u) * (1 - v),
  u * (1 - v),
  (1 - u) * v,
  u * v,
];

/** A segment in pieces that each lie in one mesh. */
function cut(s: Segment, mesh: Mesh): Piece[] {
  const length = Math.hypot(s.x1 - s.x0, s.y1 - s.y0);
  const steps = Math.max(2, Math.ceil(length / 3));
  const out: Piece[] = [];
  const quads = mesh.columns * mesh.rows;
  const find = (t: number): { quad: number; at: Point } | undefined => {
    const x = s.x0 + (s.x1 - s.x0) * t;
    const y = s.y0 + (s.y1 - s.y0) * t;
    for (let q = 0; q < quads; q++) {
      const at = within(mesh, q, x, y);
      if (at) return { quad: q, at };
    }
    return undefined;
  };
  const angle = Math.atan2(s.y1 - s.y0, s.x1 - s.x0);
  const folded = ((angle % Math.PI) + Math.PI) % Math.PI;
  const bin = Math.min(DIRECTION_BINS - 1, Math.floor((folded / Math.PI) * DIRECTION_BINS));
  let start: ReturnType<typeof find>;
  let from = 0;
  let end: ReturnType<typeof find>;
  let to = 0;
  const close = (): void => {
    if (start && end && to - from > 0.5 / steps) {
      const a = bilinear(start.at);
      const b = bilinear(end.at);
      out.push({
        quad: start.quad,
        weights: b.map((v, i) => v - a[i]!),
        was: [(s.x1 - s.x0) * (to - from), (s.y1 - s.y0) * (to - from)],
        bin,
        angle,
      });
    }
    start = undefined;
  };
  for (let i = 0; i <= steps; i++) {
    const here = find(i / steps);
    if (!here || (start && here.quad !== start.quad)) close();
    if (here && !start) {
      start = here;
      from = i / steps;
    }
    end = here;
    to = i / steps;
  }
  close();
  return out;
}

const directionOf = ({ quad, weights }: Piece, m: Mesh): Point =>
  corners(quad, m.columns).reduce<Point>(
    (s, k, i) => [s[0] + weights[i]! * m.x[k]!, s[1] + weights[i]! * m.y[k]!],
    [0, 0],
  );

/** Sets all vertices of `to` by least squares; false where that fails. */
function settle(
  from: Mesh,
  to: Mesh,
  pieces: readonly Piece[],
  turns: Float64Array,
  w: number,
  h: number,
  closed: boolean,
): boolean {
  const { columns, rows } = from;
  const size = (columns + 1) * (rows + 1);
  const A = Array.from({ length: size * 2 }, () => new Array<number>(size * 2).fill(0));
  const b = new Array<number>(size * 2).fill(0);
  const quads = columns * rows;
  /** Where the x and y of vertices stand; both ends of a full turn are as high. */
  const placesOf = (ks: readonly number[]): number[] =>
    ks.flatMap((k) => [2 * k, 2 * (closed && k % (columns + 1) === columns ? k - columns : k) + 1]);
  const add = (at: readonly number[], row: readonly number[], weight: number): void => {
    for (let i = 0; i < at.length; i++)
      for (let j = 0; j < at.length; j++) A[at[i]!]![at[j]!]! += weight * row[i]! * row[j]!;
  };
  for (let q = 0; q < quads; q++) {
    const ks = corners(q, columns);
    const at = placesOf(ks);
    // what of the four corners no turn, growth and shift explains: the projection off the
    // similarities of the first mesh
    const cx = ks.reduce((s, k) => s + from.x[k]!, 0) / 4;
    const cy = ks.reduce((s, k) => s + from.y[k]!, 0) / 4;
    const X = ks.map((k) => from.x[k]! - cx);
    const Y = ks.map((k) => from.y[k]! - cy);
    const norm = Math.sqrt(X.reduce((s, v, i) => s + v * v + Y[i]! * Y[i]!, 0));
    if (norm < 1e-6) return false;
    const basis = [
      X.flatMap((v, i) => [v / norm, Y[i]! / norm]),
      X.flatMap((v, i) => [-Y[i]! / norm, v / norm]),
      [0.5, 0, 0.5, 0, 0.5, 0, 0.5, 0],
      [0, 0.5, 0, 0.5, 0, 0.5, 0, 0.5],
    ];
    for (let r = 0; r < 8; r++)
      add(
        at,
        Array.from(
          { length: 8 },
          (_, c) => (r === c ? 1 : 0) - basis.reduce((s, v) => s + v[r]! * v[c]!, 0),
        ),
        1 / quads,
      );
  }
  for (const p of pieces) {
    // what of the piece's direction does not lie along where its like are turned to
    const t = Math.atan2(p.was[1], p.was[0]) + turns[p.bin]!;
    const ks = corners(p.quad, columns);
    const nx = -Math.sin(t);
    const ny = Math.cos(t);
    add(
      placesOf(ks),
      ks.flatMap((_, i) => [nx * p.weights[i]!, ny * p.weights[i]!]),
      LINE_WEIGHT / pieces.length,
    );
  }
  const fix = (at: number, value: number): void => {
    A[at]![at]! += BORDER_WEIGHT;
    b[at]! += BORDER_WEIGHT * value;
  };
  for (let j = 0; j <= rows; j++) {
    fix(2 * j * (columns + 1), 0);
    fix(2 * (j * (columns + 1) + columns), w);
  }
  // what stands for no height of its own
  if (closed)
    for (let j = 0; j <= rows; j++)
      A[2 * (j * (columns + 1) + columns) + 1]![2 * (j * (columns + 1) + columns) + 1] = 1;
  for (let i = 0; i <= columns; i++) {
    fix(2 * i + 1, 0);
    fix(2 * (rows * (columns + 1) + i) + 1, h);
  }
  const found = solveSymmetric(A, b);
  if (!found) return false;
  for (let k = 0; k < size; k++) {
    const i = k % (columns + 1);
    const j = Math.floor(k / (columns + 1));
    // the borders exactly, which the weight only nearly reached
    to.x[k] = i % columns ? found[2 * k]! : (i / columns) * w;
    // a full turn's last column is its first one
    const of = closed && i === columns ? k - columns : k;
    to.y[k] = j % rows ? found[2 * of + 1]! : (j / rows) * h;
  }
  return true;
}

/** Whether some mesh has turned over. */
function folds(m: Mesh): boolean {
  for (let q = 0; q < m.columns * m.rows; q++) {
    const [a, b, c, d] = corners(q, m.columns);
    const area = (i: number, j: number, k: number): number =>
      (m.x[j]! - m.x[i]!) * (m.y[k]! - m.y[i]!) - (m.x[k]! - m.x[i]!) * (m.y[j]! - m.y[i]!);
    if (area(a, b, c) <= 0 || area(b, d, c) <= 0) return true;
  }
  return false;
}

/** The way back on a regular mesh over the rectangle, in shares of the flat picture. */
function regular(from: Mesh, to: Mesh, w: number, h: number): Bend | undefined {
  const columns = ANGLE_BINS_FINE;
  const rows = Math.max(8, Math.round((ANGLE_BINS_FINE * h) / w));
  const x: number[] = [];
  const y: number[] = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      let place: Point | undefined;
      for (let q = 0; q < to.columns * to.rows && !place; q++) {
        const at = within(
          to,
          q,
          clamp((i / columns) * w, 1e-6, w - 1e-6),
          clamp((j / rows) * h, 1e-6, h - 1e-6),
        );
        if (at) {
          const s = bilinear(at);
          const ks = corners(q, to.columns);
          place = [
            ks.reduce((t, k, n) => t + s[n]! * from.x[k]!, 0) / w,
            ks.reduce((t, k, n) => t + s[n]! * from.y[k]!, 0) / h,
          ];
        }
      }
      if (!place) return undefined;
      x.push(place[0]);
      y.push(place[1]);
    }
  return { columns, rows, x, y };
}

/** Where in its cell the k-th of n + 1 vertices lies: in its middle, or on the mesh's own border. */
function inner(k: number, n: number): number {
  if (k === n) return 1;
  return k === 0 ? 0 : 0.5;
}
