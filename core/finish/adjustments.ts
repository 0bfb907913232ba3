/** A point of a tone curve: shares of display white, encoded. */
export type CurvePoint = [number, number];

/** A range of hues and how it is moved. */
export interface HueRange {
  /** its middle, and half its width, degrees of hue in Oklab */
  hue: number;
  reach: number;
  /** degrees by which its hues turn */
  turn: number;
  /** -1 to 1: as saturation and lightness of the whole */
  saturation: number;
  lightness: number;
}

/**
 * What can be adjusted of a part. Everything is scale-free or in px of the full-size picture; every
 * value at rest (`REST`) changes nothing.
 */
export interface Adjustments {
  /** EV */
  exposure: number;
  /** -1 to 1, about `pivot` in EV from middle grey */
  contrast: number;
  pivot: number;
  /** -1 to 1: what is darker or lighter than the middle, judged by the light around */
  darks: number;
  lights: number;
  /** EV for each fifth of the display's range, from the darkest */
  zones: readonly number[];
  /** EV across the picture, from one side to the other, and where it rises to, degrees */
  slope: number;
  slopeDirection: number;
  curve: readonly CurvePoint[];
  curveRed: readonly CurvePoint[];
  curveGreen: readonly CurvePoint[];
  curveBlue: readonly CurvePoint[];
  /** -1 to 1 each */
  fine: number;
  small: number;
  medium: number;
  coarse: number;
  /** K, and hundredths of EV of green */
  temperature: number;
  tint: number;
  saturation: number;
  /** -1 to 1: dull colours before strong ones, skin held */
  dullColours: number;
  hues: readonly HueRange[];
  /** hue in degrees and strength from 0 to 1, by tone */
  darksHue: number;
  darksTint: number;
  middleHue: number;
  middleTint: number;
  lightsHue: number;
  lightsTint: number;
  /** 0 to 1, and how light each of six hues becomes, -1 to 1, from red on */
  monochrome: number;
  monochromeWeights: readonly number[];
  /** 0 to 1 each */
  noiseReduction: number;
  colourNoise: number;
  sharpening: number;
  /** standard deviation of the blur that is taken back, px */
  sharpeningRadius: number;
  /** 0 everywhere to 1 only at strong edges */
  sharpeningEdges: number;
  /** -1 laid on to 1 taken off */
  haze: number;
  /** 0 to 1 of the light above `glowThreshold` (EV over display white), over `glowRadius` of the width */
  glow: number;
  glowThreshold: number;
  glowRadius: number;
  /** EV at the corners; its centre, size, shape and softness in shares */
  vignette: number;
  vignetteX: number;
  vignetteY: number;
  vignetteSize: number;
  vignetteRoundness: number;
  vignetteFeather: number;
  /** 0 to 1 each, and how far from an edge, px */
  purpleFringe: number;
  greenFringe: number;
  fringeReach: number;
}

export const HUES_OF_MONOCHROME = 6;

/** Every adjustment at rest. */
export const REST: Adjustments = {
  exposure: 0,
  contrast: 0,
  pivot: 0,
  darks: 0,
  lights: 0,
  zones: [0, 0, 0, 0, 0],
  slope: 0,
  slopeDirection: 0,
  curve: [],
  curveRed: [],
  curveGreen: [],
  curveBlue: [],
  fine: 0,
  small: 0,
  medium: 0,
  coarse: 0,
  temperature: 6504,
  tint: 0,
  saturation: 0,
  dullColours: 0,
  hues: [],
  darksHue: 250,
  darksTint: 0,
  middleHue: 60,
  middleTint: 0,
  lightsHue: 80,
  lightsTint: 0,
  monochrome: 0,
  monochromeWeights: new Array<number>(HUES_OF_MONOCHROME).fill(0),
  noiseReduction: 0,
  colourNoise: 0,
  sharpening: 0,
  sharpeningRadius: 0.8,
  sharpeningEdges: 0.3,
  haze: 0,
  glow: 0,
  glowThreshold: -0.5,
  glowRadius: 0.02,
  vignette: 0,
  vignetteX: 0.5,
  vignetteY: 0.5,
  vignetteSize: 0.7,
  vignetteRoundness: 0.5,
  vignetteFeather: 0.6,
  purpleFringe: 0,
  greenFringe: 0,
  fringeReach: 4,
};

/** Adjustments of which only those that are set are written down. */
export type SetAdjustments = { readonly [K in keyof Adjustments]?: Adjustments[K] | undefined };

/** All adjustments, those that are not set at rest. */
export const withRest = (set: SetAdjustments): Adjustments => ({
  ...REST,
  ...withoutUndefined(set),
});

const withoutUndefined = (set: SetAdjustments): Partial<Adjustments> =>
  Object.fromEntries(Object.entries(set).filter(([, value]) => value !== undefined));
