import { sampleAt, type LinearSamples } from "../raster/samples";
import { clamp } from "../math/clamp";

/**
 * What a frame looks like, small enough to keep for every frame: its log luminance, and where it is
 * sharp. Grouping compares frames by these, whatever their exposure.
 */
export interface FrameSignature {
  width: number;
  height: number;
  /** 16 codes a stop, 0 black, 255 saturated; row by row */
  log: Uint8Array;
  /** SHARP_X x SHARP_Y cells: fine contrast against brightness, 16 codes a stop */
  sharp: Uint8Array;
  /**
   * on the same cells, red and then blue against green: 32 codes a stop round 128, 0 where nothing
   * is well exposed
   */
  colour?: Uint8Array;
  /** shares of the frame that are saturated, and black */
  bright: number;
  dark: number;
}
export const SIGNATURE_EDGE = 96;
/** It is made from thumbnails this long, px. */
export const SIGNATURE_FROM = 360;
export const SHARP_X = 12;
export const SHARP_Y = 8;
/** Codes between which a sample says something: neither lost in noise nor near saturation. */
export const LOWEST = 24;
export const HIGHEST = 242;
const CODES_PER_EV = 16;
const TOP_CODE = 250;
/** Linear light as the logarithmic code that frames are compared by. */
export const codeOf = (linear: number): number =>
  linear >= 0.97
    ? 255
    : clamp(Math.round(TOP_CODE + CODES_PER_EV * Math.log2(Math.max(linear, 1e-6))), 0, TOP_CODE);
export const COLOUR_CODES = 32;
/** EV from one such code to another. */
export const evBetween = (a: number, b: number): number => (b - a) / CODES_PER_EV;

/** The signature of a decoded picture, best some 200 to 1000 px long. */
export function makeSignature(picture: LinearSamples): FrameSignature {
  const { width: w, height: h } = picture;
  const n = w * h;
  const luma = new Float32Array(n);
  for (let i = 0; i < n; i++)
    luma[i] =
      0.3 * sampleAt(picture, i * 3) +
      0.6 * sampleAt(picture, i * 3 + 1) +
      0.1 * sampleAt(picture, i * 3 + 2);
  const scale = Math.min(1, SIGNATURE_EDGE / Math.max(w, h));
  const width = Math.max(1, Math.round(w * scale));
  const height = Math.max(1, Math.round(h * scale));
  const log = new Uint8Array(width * height);
  let bright = 0;
  let dark = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const x0 = Math.floor((x * w) / width);
      const x1 = Math.max(x0 + 1, Math.floor(((x + 1) * w) / width));
      const y0 = Math.floor((y * h) / height);
      const y1 = Math.max(y0 + 1, Math.floor(((y + 1) * h) / height));
      let sum = 0;
      let full = 0;
      for (let v = y0; v < y1; v++)
        for (let u = x0; u < x1; u++) {
          const l = luma[v * w + u]!;
          sum += l;
          if (l >= 0.97) full++;
          if (l < 4e-4) dark++;
        }
      bright += full;
      // a cell that is saturated in part has no value of its own
      log[y * width + x] =
        full * 3 > (x1 - x0) * (y1 - y0) ? 255 : codeOf(sum / ((x1 - x0) * (y1 - y0)));
    }
  const sharp = new Uint8Array(SHARP_X * SHARP_Y);
  const colour = new Uint8Array(SHARP_X * SHARP_Y * 2);
  for (let cy = 0; cy < SHARP_Y; cy++)
    for (let cx = 0; cx < SHARP_X; cx++) {
      const x0 = Math.max(1, Math.floor((cx * w) / SHARP_X));
      const x1 = Math.min(w - 1, Math.floor(((cx + 1) * w) / SHARP_X));
      const y0 = Math.max(1, Math.floor((cy * h) / SHARP_Y));
      const y1 = Math.min(h - 1, Math.floor(((cy + 1) * h) / SHARP_Y));
      let energy = 0;
      let light = 0;
      let k = 0;
      const rgb = [0, 0, 0];
      for (let y = y0; y < y1; y++)
        for (let x = x0; x < x1; x++, k++) {
          const i = y * w + x;
          const c = luma[i]!;
          light += c;
          if (c > 0.01 && c < 0.8)
            for (let q = 0; q < 3; q++) rgb[q]! += sampleAt(picture, i * 3 + q);
          energy += Math.abs(4 * c - luma[i - 1]! - luma[i + 1]! - luma[i - w]! - luma[i + w]!);
        }
      if (Math.min(...rgb) > 1e-3 * k && k)
        [rgb[0]!, rgb[2]!].forEach((v, q) => {
          colour[q * SHARP_X * SHARP_Y + cy * SHARP_X + cx] = clamp(
            Math.round(128 + COLOUR_CODES * Math.log2(v / rgb[1]!)),
            1,
            255,
          );
        });
      sharp[cy * SHARP_X + cx] = k
        ? clamp(160 + CODES_PER_EV * Math.log2((energy + 1e-9) / (light + 1e-3 * k + 1e-9)), 0, 255)
        : 0;
    }
  return { width, height, log, sharp, colour, bright: bright / n, dark: dark / n };
}
