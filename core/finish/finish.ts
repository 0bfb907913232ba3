import type { Adjustments } from "./adjustments";
import { REST } from "./adjustments";

/** Values as lines in log2 luminance on a grid over the picture: slopes and offsets at addresses. */
export interface GridLines {
  width: number;
  height: number;
  slopes: number;
  offsets: number;
}

/** Light that spreads: planes R, G, B one after another on a grid, at an address. */
export interface GlowGrid {
  width: number;
  height: number;
  at: number;
}

/** How the scene's noise goes with its light: variance = perUnit * light + read2. */
export interface SceneNoise {
  perUnit: number;
  read2: number;
  /** measured against that model, or against the weights of the merge */
  factor: number;
  /** whether the scene's fourth plane says how much each pixel is worth: 1 / variance */
  byWeights: boolean;
}

/** A part as the renderer takes it. */
export interface FinishedPart {
  adjustments: Adjustments;
  amount: number;
  /** how far a pixel is in it; absent for the whole picture */
  mask?: GridLines;
  /** EV of all that is judged by the light around */
  light?: GridLines;
  glow?: GlowGrid;
}

/** The finish of a picture as the renderer takes it; addresses are the caller's to free. */
export interface Finish {
  /** px of the scene a px of the full-size picture takes */
  scale: number;
  /** full-size picture's width over its height */
  aspect: number;
  parts: readonly FinishedPart[];
  noise?: SceneNoise;
  /** where the air is: -log2 of transmission, and the colour of its light */
  air?: GridLines & { colour: readonly [number, number, number] };
}

const isRest = (set: Adjustments, keys: readonly (keyof Adjustments)[]): boolean =>
  keys.every((key) => {
    const value = set[key];
    return Array.isArray(value) ? (value as unknown[]).every((v) => v === 0) : value === REST[key];
  });

const CURVES = ["curve", "curveRed", "curveGreen", "curveBlue"] as const;
const COLOURS = [
  "saturation",
  "dullColours",
  "hues",
  "darksTint",
  "middleTint",
  "lightsTint",
  "monochrome",
  "purpleFringe",
  "greenFringe",
] as const;

/** Whether curves are set. */
export const hasCurves = (set: Adjustments): boolean => !isRest(set, CURVES);
/** Whether anything of colour is set but the white balance. */
export const hasColour = (set: Adjustments): boolean => !isRest(set, COLOURS);
/** Whether anything is set that goes by the light around. */
export const hasLocalLight = (set: Adjustments): boolean =>
  !isRest(set, ["darks", "lights", "zones", "medium", "coarse"]);

const CHANGING = [
  ...CURVES,
  ...COLOURS,
  "exposure",
  "contrast",
  "darks",
  "lights",
  "zones",
  "slope",
  "fine",
  "small",
  "medium",
  "coarse",
  "temperature",
  "tint",
  "noiseReduction",
  "colourNoise",
  "sharpening",
  "haze",
  "glow",
  "vignette",
] as const;

/** Whether a part leaves every pixel as it is, whatever those adjustments say that only shape others. */
export const isAtRest = (set: Adjustments): boolean => isRest(set, CHANGING);
