import type { Accumulator } from "../../core/raster/accumulator";
import { isIdentity, multiply, project, type Matrix3 } from "../../core/math/matrix3";

/** Rows of a picture that is merged piece by piece. */
export interface Band {
  y0: number;
  y1: number;
}
/** Rows of light that are made when they are asked for; `done` gives them back. */
export interface ComingBand extends Band {
  take(): Promise<{ rows: Accumulator; done(): void }>;
}

/** As many rows at a time, from the top. */
export const bandsBy = (height: number, rows: number): Band[] =>
  Array.from({ length: Math.ceil(height / rows) }, (_, i) => ({
    y0: i * rows,
    y1: Math.min(height, (i + 1) * rows),
  }));
/** A band with what lies round it in a picture so high. */
export const widened = ({ y0, y1 }: Band, margin: number, height: number): Band => ({
  y0: Math.max(0, y0 - margin),
  y1: Math.min(height, y1 + margin),
});

/** Rows are read in whole blocks of any file, and with what resampling needs round them. */
const BLOCK_ROWS = 16;
const RESAMPLING_ROWS = 8;

/** The rows of a frame that are needed for a band of the reference. */
export function rowsBehind(
  { y0, y1 }: Band,
  fromReference: Matrix3,
  { width, height }: { width: number; height: number },
): [number, number] {
  if (isIdentity(fromReference)) return [y0, y1];
  const ys = [
    [0, y0],
    [width, y0],
    [0, y1],
    [width, y1],
  ].map(([x, y]) => project(fromReference, x!, y!)[1]);
  const within = (y: number): number => Math.max(0, Math.min(height, y));
  const from = Math.min(
    within(Math.floor((Math.min(...ys) - RESAMPLING_ROWS) / BLOCK_ROWS) * BLOCK_ROWS),
    Math.floor((height - 1) / BLOCK_ROWS) * BLOCK_ROWS,
  );
  return [
    from,
    Math.max(
      within(Math.ceil(Math.max(...ys)) + RESAMPLING_ROWS),
      Math.min(height, from + BLOCK_ROWS),
    ),
  ];
}

/** A mapping between parts of two pictures that begin further down. */
export const shifted = (m: Matrix3, from: number, to: number): number[] =>
  from || to
    ? multiply([1, 0, 0, 0, 1, -to, 0, 0, 1], multiply(m, [1, 0, 0, 0, 1, from, 0, 0, 1]))
    : [...m];
