import { solveSymmetric } from "../math/solveSymmetric";
import { invert, multiply, type Matrix3 } from "../math/matrix3";
import { compareCells, type CellLight } from "./cellLight";
import { median } from "../math/median";

/**
 * Cells that tell a step's falling off, at least; what is off by so many times what is explained,
 * moved.
 */
const MIN_CELLS = 60;
const MOVED_SIGMA = 2.5;
/** EV at the corner below which a frame is left as it is: what the measure itself may err. */
const SEEN_EV = 0.05;

/**
 * By how many EV each frame of a focus run has to be lightened at its corners, against the
 * reference, to be as even as that: a lens that focuses nearer falls off otherwise. Blur moves
 * light about but loses none, so cells of neighbours along the travel are compared: brighter = g +
 * v r^2, robustly, r = 1 at the corner; and the steps are added up.
 *
 * @param cells   of each frame along the travel
 * @param placed  of each the way from the reference frame's px to its own, at the size of the
 *   reduced frames
 * @param middle  place of the reference among them
 * @returns of each frame EV at the corner, 0 at its middle and squared between; 0 where too little
 *   tells it
 * @see Goldman, "Vignette and exposure calibration and compensation", TPAMI 2010
 */
export function runFalloff(
  cells: readonly CellLight[],
  placed: readonly Matrix3[],
  middle: number,
  { width, height }: { width: number; height: number },
): number[] {
  const square = (x: number, y: number): number =>
    ((x - width / 2) ** 2 + (y - height / 2) ** 2) / ((width ** 2 + height ** 2) / 4);
  const steps = cells.slice(1).map((b, k) => {
    const seen: { r2: number; brighter: number; explained: number }[] = [];
    compareCells(
      cells[k]!,
      b,
      multiply(placed[k + 1]!, invert(placed[k]!)),
      (x, y, bx, by, brighter, explained) => {
        seen.push({ r2: (square(x, y) + square(bx, by)) / 2, brighter, explained });
      },
    );
    return seen.length < MIN_CELLS ? 0 : slope(seen);
  });
  const out = cells.map(() => 0);
  // where a frame falls off more, it has to be lightened more
  for (let k = middle + 1; k < cells.length; k++) out[k] = out[k - 1]! - steps[k - 1]!;
  for (let k = middle - 1; k >= 0; k--) out[k] = out[k + 1]! + steps[k]!;
  return out.map((ev) => (Math.abs(ev) < SEEN_EV ? 0 : ev));
}

function slope(seen: readonly { r2: number; brighter: number; explained: number }[]): number {
  let [g, v] = [median(seen.map((s) => s.brighter)), 0];
  for (let round = 0; round < 8; round++) {
    const A = [
      [0, 0],
      [0, 0],
    ];
    const b = [0, 0];
    for (const { r2, brighter, explained } of seen) {
      const off = (brighter - g - v * r2) / explained;
      const w = 1 / (explained ** 2 * (1 + (off / MOVED_SIGMA) ** 2) ** 2);
      A[0]![0]! += w;
      A[0]![1]! += w * r2;
      A[1]![0]! += w * r2;
      A[1]![1]! += w * r2 * r2;
      b[0]! += w * brighter;
      b[1]! += w * r2 * brighter;
    }
    [g, v] = (solveSymmetric(A, b) ?? [g, v]) as [number, number];
  }
  return v;
}

/** Mean of the squared radius, by light: what a mean over the whole frame sees of a falling off. */
export function meanSquare({ w, h, light }: CellLight): number {
  let sum = 0;
  let all = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const l = light[y * w + x]!;
      all += l;
      sum += (l * ((x + 0.5 - w / 2) ** 2 + (y + 0.5 - h / 2) ** 2)) / ((w ** 2 + h ** 2) / 4);
    }
  return all > 0 ? sum / all : 0;
}
