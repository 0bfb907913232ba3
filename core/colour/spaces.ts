import { apply, invert, multiply, type Matrix3 } from "../math/matrix3";

/**
 * Encoding c <= threshold ? slope c : a c^(1/gamma) - b, as IEC 61966-2-1 and its relatives write
 * it.
 */
export interface Curve {
  threshold: number;
  slope: number;
  a: number;
  b: number;
  gamma: number;
}

export interface ColourSpace {
  id: SpaceId;
  name: string;
  /**
   * linear RGB of this space to CIE XYZ, D65 white at Y = 1 (adapted by Bradford where its own
   * white differs)
   */
  toXyz: Matrix3;
  /** x, y of red, green, blue and white */
  primaries: readonly number[];
  curve: Curve;
}

export const SPACE_IDS = ["srgb", "p3", "adobe", "prophoto", "rec2020", "linear"] as const;
export type SpaceId = (typeof SPACE_IDS)[number];

type Xy = readonly [number, number];
const D65: Xy = [0.3127, 0.329];
const D50: Xy = [0.34567, 0.3585];
const xyz = ([x, y]: Xy): [number, number, number] => [x / y, 1, (1 - x - y) / y];

/** Bradford adaptation between two whites, both as XYZ (Lam 1985; ICC.1 annex E). */
export function bradford(from: readonly number[], to: readonly number[]): Matrix3 {
  const cone: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];
  const a = apply(cone, from);
  const b = apply(cone, to);
  return multiply(
    invert(cone),
    multiply([b[0] / a[0], 0, 0, 0, b[1] / a[1], 0, 0, 0, b[2] / a[2]], cone),
  );
}

/** RGB to XYZ from the chromaticities of primaries and white (SMPTE RP 177). */
function fromPrimaries(r: Xy, g: Xy, b: Xy, white: Xy): Matrix3 {
  const [R, G, B] = [xyz(r), xyz(g), xyz(b)];
  const m = [R[0], G[0], B[0], R[1], G[1], B[1], R[2], G[2], B[2]];
  const s = apply(invert(m), xyz(white));
  const scaled = m.map((v, i) => v * s[i % 3]!);
  return white === D65 ? scaled : multiply(bradford(xyz(white), xyz(D65)), scaled);
}

const SRGB_CURVE: Curve = { threshold: 0.0031308, slope: 12.92, a: 1.055, b: 0.055, gamma: 2.4 };
const power = (gamma: number): Curve => ({ threshold: 0, slope: 0, a: 1, b: 0, gamma });
const space = (
  id: SpaceId,
  name: string,
  r: Xy,
  g: Xy,
  b: Xy,
  white: Xy,
  curve: Curve,
): ColourSpace => ({
  id,
  name,
  toXyz: fromPrimaries(r, g, b, white),
  primaries: [...r, ...g, ...b, ...white],
  curve,
});
const REC2020 = [[0.708, 0.292], [0.17, 0.797], [0.131, 0.046], D65] as const;
const rec2020 = fromPrimaries(...REC2020);

export const SPACES: Record<SpaceId, ColourSpace> = {
  srgb: space("srgb", "sRGB", [0.64, 0.33], [0.3, 0.6], [0.15, 0.06], D65, SRGB_CURVE),
  p3: space("p3", "Display P3", [0.68, 0.32], [0.265, 0.69], [0.15, 0.06], D65, SRGB_CURVE),
  adobe: space(
    "adobe",
    "Adobe RGB (1998) compatible",
    [0.64, 0.33],
    [0.21, 0.71],
    [0.15, 0.06],
    D65,
    power(563 / 256),
  ),
  prophoto: space(
    "prophoto",
    "ProPhoto (ROMM)",
    [0.734699, 0.265301],
    [0.159597, 0.840403],
    [0.036598, 0.000105],
    D50,
    { threshold: 1 / 512, slope: 16, a: 1, b: 0, gamma: 1.8 },
  ),
  rec2020: space("rec2020", "Rec. 2020", ...REC2020, {
    threshold: 0.018054,
    slope: 4.5,
    a: 1.0993,
    b: 0.0993,
    gamma: 1 / 0.45,
  }),
  linear: space("linear", "Linear Rec. 2020", ...REC2020, power(1)),
};

/**
 * Linear RGB of any primaries and white (x, y each) to linear Rec. 2020, adapted by Bradford where
 * the white differs.
 */
export function workingFromPrimaries(r: Xy, g: Xy, b: Xy, white: Xy): Matrix3 {
  const near = Math.hypot(white[0] - D65[0], white[1] - D65[1]) < 1e-3;
  return multiply(invert(rec2020), fromPrimaries(r, g, b, near ? D65 : white));
}

export const D50_XYZ = xyz(D50);
export const D65_XYZ = xyz(D65);

/** Linear RGB of one space to linear Rec. 2020, the working space. */
export const toWorking = (space: SpaceId): Matrix3 =>
  multiply(invert(rec2020), SPACES[space].toXyz);
/** Linear Rec. 2020 to linear RGB of a space. */
export const fromWorking = (space: SpaceId): Matrix3 =>
  multiply(invert(SPACES[space].toXyz), rec2020);
/** The matrix from XYZ (D65) to the working space, linear Rec. 2020. */
export const xyzToWorking = (): Matrix3 => invert(rec2020);

/** Linear light to a space's code value, both 0 to 1. */
export function encode(curve: Curve, v: number): number {
  return v <= curve.threshold
    ? curve.slope * v
    : curve.a * Math.max(0, v) ** (1 / curve.gamma) - curve.b;
}

/** A space's code value to linear light, both 0 to 1. */
export function decode(curve: Curve, v: number): number {
  if (v <= curve.threshold * curve.slope) {
    if (curve.slope) return v / curve.slope;
    return 0;
  }
  return ((v + curve.b) / curve.a) ** curve.gamma;
}
