/** Shares of R, G and B in luminance, linear Rec. 2020 (ITU-R BT.2020, derived from its primaries). */
export const LUMINANCE = [0.2627, 0.678, 0.0593] as const;

/** Luminance of linear Rec. 2020. */
export const luminance = (r: number, g: number, b: number): number =>
  LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
