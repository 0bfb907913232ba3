import { smoothstep } from "../math/smoothstep";
import type { Adjustments, HueRange } from "./adjustments";
import { HUES_OF_MONOCHROME } from "./adjustments";
import { hueBetween } from "./oklab";

/** Places of the table over the whole circle, and floats of each; the kernel's numbers. */
const PLACES = 256;
const FLOATS = 8;

/** Hue of skin of any lightness in Oklab, and how far from it skin still is, degrees. */
const SKIN = { hue: 52, reach: 32 };
/** Hues of the rims that lenses leave: of what is out of focus behind, and before. */
const PURPLE = { hue: 308, reach: 52 };
const GREEN = { hue: 145, reach: 45 };

/** Hues of red, yellow, green, cyan, blue and magenta in Oklab. */
export const MONOCHROME_HUES: readonly number[] = [29, 110, 142, 195, 264, 328];

/** 1 at a hue, falling smoothly to 0 at `reach` degrees from it. */
export function nearHue(
  hue: number,
  { hue: middle, reach }: { hue: number; reach: number },
): number {
  return smoothstep(1 - Math.abs(hueBetween(middle, hue)) / reach);
}

/** Degrees of the place i of the table: it goes evenly over b / (|a| + |b|), not over the angle. */
function hueOfPlace(i: number): number {
  const angle = (i / PLACES) * 4;
  const quarter = Math.floor(angle) % 4;
  const f = angle - Math.floor(angle);
  // along the side of a square on its corner
  const [a, b] = [
    [1 - f, f],
    [-f, 1 - f],
    [-(1 - f), -f],
    [f, -(1 - f)],
  ][quarter] as [number, number];
  return ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360;
}

/** Black and white's weight of a hue, smooth between the six that are set. */
function monochromeWeight(weights: readonly number[], hue: number): number {
  let sum = 0;
  let total = 0;
  for (let i = 0; i < HUES_OF_MONOCHROME; i++) {
    const near = Math.max(0, 1 - Math.abs(hueBetween(MONOCHROME_HUES[i]!, hue)) / 75) ** 2;
    sum += near * weights[i]!;
    total += near;
  }
  return total > 0 ? sum / total : 0;
}

/** Factor on chroma of a saturation of -1 to 1. */
export const chromaFactor = (saturation: number): number => 1 + saturation;

/** What the kernel knows of each hue: see `colourRow`. */
export function hueTable(set: Adjustments): Float32Array {
  const table = new Float32Array((PLACES + 1) * FLOATS);
  for (let i = 0; i <= PLACES; i++) {
    const hue = hueOfPlace(i % PLACES);
    const moved = movedHue(set.hues, hue);
    const turn = (moved.turn * Math.PI) / 180;
    const rim = set.purpleFringe * nearHue(hue, PURPLE) + set.greenFringe * nearHue(hue, GREEN);
    table.set(
      [
        Math.cos(turn),
        Math.sin(turn),
        moved.chroma,
        moved.lightness,
        nearHue(hue, SKIN),
        Math.min(1, rim),
        monochromeWeight(set.monochromeWeights, hue),
        0,
      ],
      i * FLOATS,
    );
  }
  return table;
}

/** What all ranges together do to a hue. */
function movedHue(
  ranges: readonly HueRange[],
  hue: number,
): { turn: number; chroma: number; lightness: number } {
  let turn = 0;
  let chroma = 1;
  let lightness = 0;
  for (const range of ranges) {
    const near = nearHue(hue, range);
    turn += near * range.turn;
    chroma *= 1 + near * (chromaFactor(range.saturation) - 1);
    lightness += near * range.lightness;
  }
  return { turn, chroma, lightness };
}

/** Bytes of a hue table. */
export const HUE_TABLE_BYTES = (PLACES + 1) * FLOATS * 4;
