import { SPACES } from "../colour/spaces";
import { apply, invert, multiply, type Matrix3 } from "../math/matrix3";

/**
 * Linear sRGB to the cone responses of Oklab.
 * @see Ottosson, "A perceptual color space for image processing", 2020
 */
const SRGB_TO_LMS: Matrix3 = [
  0.4122214708, 0.5363325363, 0.0514459929, 0.2119034982, 0.6806995451, 0.1073969566, 0.0883024619,
  0.2817188376, 0.6299787005,
];

/** Linear Rec. 2020 to the cone responses of Oklab; its rows sum to 1, so that grey stays grey. */
export const WORKING_TO_LMS: Matrix3 = withUnitRows(
  multiply(SRGB_TO_LMS, multiply(invert(SPACES.srgb.toXyz), SPACES.linear.toXyz)),
);
export const LMS_TO_WORKING: Matrix3 = invert(WORKING_TO_LMS);

/** A matrix whose rows are scaled to sum to 1. */
function withUnitRows(m: Matrix3): Matrix3 {
  return m.map((value, i) => {
    const row = Math.floor(i / 3) * 3;
    return value / (m[row]! + m[row + 1]! + m[row + 2]!);
  });
}

/** Lightness, a and b of linear Rec. 2020. */
export function oklab(rgb: readonly [number, number, number]): [number, number, number] {
  const [l, m, s] = apply(WORKING_TO_LMS, rgb).map((v) => Math.cbrt(Math.max(0, v))) as [
    number,
    number,
    number,
  ];
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}

/** Linear Rec. 2020 of lightness, a and b. */
export function fromOklab([L, a, b]: readonly [number, number, number]): [number, number, number] {
  const l = L + 0.3963377774 * a + 0.2158037573 * b;
  const m = L - 0.1055613458 * a - 0.0638541728 * b;
  const s = L - 0.0894841775 * a - 1.291485548 * b;
  const [red, green, blue] = apply(LMS_TO_WORKING, [l ** 3, m ** 3, s ** 3]);
  return [red, green, blue];
}

/** Hue of Oklab's a and b, degrees from 0 to 360. */
export const hueOf = (a: number, b: number): number =>
  ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360;

/** Degrees from one hue to another the short way round, -180 to 180. */
export const hueBetween = (from: number, to: number): number =>
  ((((to - from) % 360) + 540) % 360) - 180;
