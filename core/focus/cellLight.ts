import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { project, type Matrix3 } from "../math/matrix3";

/** What blur leaves alone: light in cells, linear, with the cells it is known of. */
export interface CellLight {
  w: number;
  h: number;
  light: Float32Array;
  known: Uint8Array;
}

/** Side of a cell in px of the reduced frame: wider than the blur of a step. */
export const CELL = 8;
/**
 * EV that noise may put between two cells; share of the contrast round a cell that a step of focus
 * may move into it or out of it.
 */
const NOISE_EV = 0.08;
const BLUR = 0.4;
/** Below this, light is noise. */
const NOISE_LIGHT = 2 ** -9;

/** Mean light of each cell of a frame. */
export function cellLight(heap: Heap, { levels: [finest] }: LogPyramid): CellLight {
  const { w: across, h: down, log, confidence } = finest!;
  const mark = heap.mark();
  const lit = heap.alloc(across * down * 4 + 16);
  const w = Math.floor(across / CELL);
  const h = Math.floor(down / CELL);
  const light = new Float32Array(w * h);
  const known = new Uint8Array(w * h);
  heap.k.lightOf(log, across * down, 1, lit);
  const Y = heap.f32(lit, across * down);
  const V = heap.f32(confidence, across * down);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      let confidences = 0;
      for (let v = 0; v < CELL; v++)
        for (let u = 0; u < CELL; u++) {
          const i = (y * CELL + v) * across + x * CELL + u;
          sum += Y[i]!;
          if (V[i]! > 0) confidences++;
        }
      light[y * w + x] = sum / (CELL * CELL);
      known[y * w + x] = confidences * 2 >= CELL * CELL ? 1 : 0;
    }
  heap.release(mark);
  return { w, h, light, known };
}

/**
 * Compares two frames cell by cell: of each cell of the first it reports its middle in px,
 * where that lies in the second, by how many EV that is brighter, and how many blur and noise
 * explain.
 *
 * @param onward  the first frame's px to the second's
 */
export function compareCells(
  a: CellLight,
  b: CellLight,
  onward: Matrix3,
  report: (
    x: number,
    y: number,
    bx: number,
    by: number,
    brighter: number,
    explained: number,
  ) => void,
): void {
  for (let y = 1; y < a.h - 1; y++)
    for (let x = 1; x < a.w - 1; x++) {
      const i = y * a.w + x;
      const [px, py] = [(x + 0.5) * CELL, (y + 0.5) * CELL];
      const [bx, by] = project(onward, px, py);
      const there = sampled(b, bx / CELL - 0.5, by / CELL - 0.5);
      if (!a.known[i] || there === undefined) continue;
      const contrast = Math.max(
        contrastAt(a, x, y),
        contrastAt(b, Math.round(bx / CELL - 0.5), Math.round(by / CELL - 0.5)),
      );
      report(
        px,
        py,
        bx,
        by,
        Math.log2(Math.max(NOISE_LIGHT, there)) - Math.log2(Math.max(NOISE_LIGHT, a.light[i]!)),
        NOISE_EV + BLUR * contrast,
      );
    }
}

/**
 * The share of cells, 0 to 1, whose light blur and noise explain: nearly all of a scene's own,
 * whatever it is focused on; some half of another scene's.
 *
 * @param flicker  EV by which the whole second frame is brighter
 */
export function explainedShare(
  a: CellLight,
  b: CellLight,
  onward: Matrix3,
  flicker: number,
): number {
  let all = 0;
  let within = 0;
  compareCells(a, b, onward, (_x, _y, _bx, _by, brighter, explained) => {
    all++;
    if (Math.abs(brighter - flicker) < explained) within++;
  });
  return all ? within / all : 0;
}

/** Light between four cells; nothing where one of them is not known. */
function sampled({ w, h, light, known }: CellLight, x: number, y: number): number | undefined {
  const u = Math.floor(x);
  const v = Math.floor(y);
  const i = v * w + u;
  const fx = x - u;
  const fy = y - v;
  if (
    u < 0 ||
    v < 0 ||
    u + 1 >= w ||
    v + 1 >= h ||
    !(known[i]! & known[i + 1]! & known[i + w]! & known[i + w + 1]!)
  )
    return undefined;
  return (
    (light[i]! * (1 - fx) + light[i + 1]! * fx) * (1 - fy) +
    (light[i + w]! * (1 - fx) + light[i + w + 1]! * fx) * fy
  );
}

/** EV between the brightest and the darkest of the nine cells round a place. */
function contrastAt({ w, h, light }: CellLight, x: number, y: number): number {
  let low = Infinity;
  let high = NOISE_LIGHT;
  for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
    for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
      const l = light[v * w + u]!;
      low = Math.min(low, l);
      high = Math.max(high, l);
    }
  return Math.log2(high / Math.max(NOISE_LIGHT, Math.min(low, high)));
}
