import { solveSymmetric } from "../../math/solveSymmetric";
import { inFrame, seen, type Camera } from "../camera";
import { dot, unit, type Vector } from "../../math/vector";
import { median } from "../../math/median";

/**
 * What a frame's light is multiplied by to fit the others, per channel; and the lens's falling off,
 * common to all.
 */
export interface Light {
  gains: [number, number, number][];
  /** light falls off by exp(a r^2 + b r^4), r = 1 at half the diagonal */
  vignetting: [number, number];
  /**
   * what the evened light of a direction is multiplied by, where a steady change of exposure is
   * kept: exp(along . d + all), d of length 1
   */
  ramp?: {
    along: Vector;
    all: number;
  };
}
/**
 * Linear R, G, B of a frame round a place in px of the full-size frame, or undefined where any of
 * it is clipped or black.
 */
export type ColourAt = (frame: number, x: number, y: number) => Vector | undefined;

/**
 * Evens exposure, white balance and vignetting over the places that two frames share, jointly, in
 * linear light.
 *
 * @param evs  exposures as far as the files say: what a frame is expected to differ by
 * @see Goldman, "Vignette and exposure calibration and compensation", TPAMI 2010
 */
export function equaliseExposure(
  cameras: readonly (Camera | undefined)[],
  colourAt: ColourAt,
  evs: readonly (number | undefined)[],
): Light {
  const n = cameras.length;
  const samples = sharedPlaces(cameras, colourAt);
  const size = n + 2;
  const known = evs.filter((e): e is number => e !== undefined);
  const middle = known.length === n ? median(known) : 0;
  const expected = evs.map((e) => (known.length === n ? -(e! - middle) * Math.LN2 : 0));
  const solve = (c: number, vignetting: readonly [number, number] | undefined): number[] => {
    let x = [...expected, ...(vignetting ?? [0, 0])];
    // each sample tells of four unknowns: where they lie, and what they are multiplied by
    const differences = samples.map((s) => Math.log(s.a[c]! / s.b[c]!));
    const at = [0, 0, n, n + 1];
    const by = [1, -1, 0, 0];
    for (let round = 0; round < 8; round++) {
      const A = Array.from({ length: size }, () => new Array<number>(size).fill(0));
      const b = new Array<number>(size).fill(0);
      samples.forEach((s, q) => {
        at[0] = s.i;
        at[1] = s.j;
        by[2] = s.rb - s.ra;
        by[3] = s.rb ** 2 - s.ra ** 2;
        let r = differences[q]!;
        for (let k = 0; k < 4; k++) r += x[at[k]!]! * by[k]!;
        const w = 1 / (1 + (r / 0.08) ** 2) ** 2;
        for (let k = 0; k < 4; k++) {
          const row = A[at[k]!]!;
          const v = w * by[k]!;
          for (let l = 0; l < 4; l++) row[at[l]!]! += v * by[l]!;
          b[at[k]!]! -= v * differences[q]!;
        }
      });
      const pull = Math.max(1, samples.length) * 1e-4;
      for (let k = 0; k < n; k++) {
        A[k]![k]! += pull;
        b[k]! += pull * expected[k]!;
      }
      for (let k = n; k < size; k++) {
        const hold = vignetting ? 1e9 : Math.max(1, samples.length) * 3e-4;
        A[k]![k]! += hold;
        b[k]! += hold * (vignetting?.[k - n] ?? 0);
      }
      x = solveSymmetric(A, b) ?? x;
    }
    return x;
  };
  // green, which has least noise, tells the vignetting for all
  const green = solve(1, undefined);
  const vignetting: [number, number] = [green[n]!, green[n + 1]!];
  const red = solve(0, vignetting);
  const blue = solve(2, vignetting);
  return {
    gains: cameras.map((c, i) =>
      c ? [Math.exp(red[i]!), Math.exp(green[i]!), Math.exp(blue[i]!)] : [1, 1, 1],
    ),
    vignetting: [vignetting[0], vignetting[1]],
  };
}

/**
 * What holds a ramp level where frames do not tell it: of looks up and down in a single row, say.
 */
const LEVEL_PRIOR = 0.02;

/**
 * The steady change of exposure over all that the frames show: of what evening took from each of
 * them, the part that grows along one direction.
 */
export function rampOf(
  cameras: readonly (Camera | undefined)[],
  gains: Light["gains"],
): NonNullable<Light["ramp"]> {
  const A = Array.from({ length: 4 }, (_, i) =>
    Array.from({ length: 4 }, (_v, j) => (i === j && i < 3 ? LEVEL_PRIOR : 0)),
  );
  const b = [0, 0, 0, 0];
  cameras.forEach((c, i) => {
    if (!c) return;
    const at = [c.rotation[2]!, c.rotation[5]!, c.rotation[8]!, 1];
    const own = -Math.log(gains[i]![1]);
    for (let r = 0; r < 4; r++) {
      for (let k = 0; k < 4; k++) A[r]![k]! += at[r]! * at[k]!;
      b[r]! += at[r]! * own;
    }
  });
  const [x, y, z, all] = solveSymmetric(A, b) as [number, number, number, number];
  return { along: [x, y, z], all };
}
/** What light of a direction, of any length, is multiplied by. */
export const rampAt = ({ ramp }: Pick<Light, "ramp">, d: Vector): number =>
  ramp ? Math.exp(dot(ramp.along, unit(d)) + ramp.all) : 1;

/** Squared distance of a place of the frame from the lens's axis, 1 at half the diagonal. */
function radiusAt(
  { width, height, centre }: Pick<Camera, "width" | "height" | "centre">,
  x: number,
  y: number,
): number {
  const cx = centre ? centre[0] : width / 2;
  const cy = centre ? centre[1] : height / 2;
  return ((x - cx) ** 2 + (y - cy) ** 2) / ((width ** 2 + height ** 2) / 4);
}

/** The lens's falling off at a place of the frame, as a factor on light. */
export function falloff(
  { vignetting: [a, b] }: Pick<Light, "vignetting">,
  camera: Pick<Camera, "width" | "height" | "centre">,
  x: number,
  y: number,
): number {
  const r = radiusAt(camera, x, y);
  return Math.exp(a * r + b * r * r);
}

interface Shared {
  i: number;
  j: number;
  a: Vector;
  b: Vector;
  /** squared radii */
  ra: number;
  rb: number;
}

/** Directions all over the sphere, each with every pair of frames that see it. */
function sharedPlaces(cameras: readonly (Camera | undefined)[], colourAt: ColourAt): Shared[] {
  const out: Shared[] = [];
  const count = 9000;
  for (let k = 0; k < count; k++) {
    // a spiral that covers the sphere evenly
    const y = 1 - (2 * (k + 0.5)) / count;
    const a = k * 2.399963229728653;
    const r = Math.sqrt(1 - y * y);
    const d = [r * Math.sin(a), y, r * Math.cos(a)];
    const here = cameras.flatMap((c, i) => {
      const p = c && seen(c, d);
      if (!c || !p || !inFrame(c, p, 3)) return [];
      const v = colourAt(i, p[0], p[1]);
      return v ? [{ i, v, r: radiusAt(c, p[0], p[1]) }] : [];
    });
    for (let p = 0; p < here.length; p++)
      for (let q = p + 1; q < here.length; q++)
        out.push({
          i: here[p]!.i,
          j: here[q]!.i,
          a: here[p]!.v,
          b: here[q]!.v,
          ra: here[p]!.r,
          rb: here[q]!.r,
        });
  }
  return out;
}
