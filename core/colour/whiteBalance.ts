import { apply, invert, multiply, type Matrix3 } from "../math/matrix3";
import { SPACES } from "./spaces";
import { clamp } from "../math/clamp";
import { luminance } from "./luminance";

/** XYZ of a daylight or, below 4000 K, a black-body white of `kelvin` (CIE 15; Kim et al. 2002). */
function whiteOf(kelvin: number): [number, number, number] {
  const t = clamp(kelvin, 1700, 25000);
  const i = 1e3 / t;
  let x: number;
  if (t < 4000) x = -0.2661239 * i ** 3 - 0.234358 * i ** 2 + 0.8776956 * i + 0.17991;
  else if (t < 7000) x = -4.607 * i ** 3 + 2.9678 * i ** 2 + 0.09911 * i + 0.244063;
  else x = -2.0064 * i ** 3 + 1.9018 * i ** 2 + 0.24748 * i + 0.23704;
  let y: number;
  if (t < 2222) y = -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683;
  else if (t < 4000) y = -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867;
  else y = -3 * x * x + 2.87 * x - 0.275;
  return [x / y, 1, (1 - x - y) / y];
}

/**
 * White balance in use: `temperature` in K (6504 leaves the frames as they are), `tint` in steps of
 * 1/100 EV of green.
 */
export interface WhiteBalance {
  temperature: number;
  tint: number;
}
export const AS_SHOT: WhiteBalance = { temperature: 6504, tint: 0 };

/**
 * Multipliers of linear Rec. 2020 R, G, B that turn light of the given temperature and tint to
 * neutral, at equal luminance of grey. As in the trade, a higher temperature makes the picture
 * warmer.
 */
export function whiteBalanceGains({ temperature, tint }: WhiteBalance): [number, number, number] {
  const m = invert(SPACES.linear.toXyz);
  const at = apply(m, whiteOf(temperature));
  const base = apply(m, whiteOf(AS_SHOT.temperature));
  const g = 2 ** (-tint / 100);
  const gains = [
    base[0] / Math.max(0.02, at[0]),
    (base[1] / at[1]) * g,
    base[2] / Math.max(0.02, at[2]),
  ];
  const y = luminance(gains[0]!, gains[1]!, gains[2]!);
  return gains.map((v) => v / y) as [number, number, number];
}

/**
 * The temperature and tint that make a linear Rec. 2020 colour neutral; undefined for black or
 * clipped samples.
 */
export function balanceFromNeutral(rgb: readonly number[]): WhiteBalance | undefined {
  if (rgb.some((v) => !(v > 1e-7))) return undefined;
  const wanted = Math.log(rgb[0]! / rgb[2]!);
  let lo = 1700;
  let hi = 25000;
  const rb = (k: number): number => {
    const g = whiteBalanceGains({ temperature: k, tint: 0 });
    return Math.log(g[2]! / g[0]!);
  };
  // the ratio of red to blue falls steadily with temperature
  for (let i = 0; i < 60; i++) {
    const mid = Math.sqrt(lo * hi);
    if (rb(mid) > wanted) lo = mid;
    else hi = mid;
  }
  const temperature = Math.round(Math.sqrt(lo * hi));
  const g = whiteBalanceGains({ temperature, tint: 0 });
  const green = (rgb[1]! * g[1]) / Math.sqrt(rgb[0]! * g[0] * rgb[2]! * g[2]);
  return { temperature, tint: Math.round(clamp(Math.log2(green) * 100, -150, 150)) };
}

/** The matrix that multiplies each channel by its own gain. */
export const diagonal = (v: readonly number[]): Matrix3 => [v[0]!, 0, 0, 0, v[1]!, 0, 0, 0, v[2]!];
/** A matrix with gains applied to its input channels. */
export const withGains = (m: Matrix3, gains: readonly number[]): Matrix3 =>
  multiply(m, diagonal(gains));
