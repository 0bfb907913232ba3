/** What is counted of a picture as it goes out. */
export interface PictureNumbers {
  /** shares of the picture at either end in any channel, 0 to 1 */
  white: number;
  black: number;
  /** mean and standard deviation of its lightness, 0 to 1, encoded */
  mean: number;
  contrast: number;
  /** mean distance of its colours from grey, 0 to 1, encoded */
  colour: number;
}

/** What is counted of its detail. */
export interface DetailNumbers {
  /** mean step of lightness from px to px, in 8-bit steps */
  sharpness: number;
  /** signal over noise in the darks, dB; undefined where there are none */
  darkDb?: number;
}

const WHITE = 254;
const BLACK = 1;

/** Counts a picture. @param pixels  R, G, B, A bytes, encoded */
export function pictureNumbers(pixels: Uint8ClampedArray): PictureNumbers {
  const count = Math.max(1, pixels.length / 4);
  let white = 0;
  let black = 0;
  let sum = 0;
  let squares = 0;
  let colour = 0;
  for (let i = 0; i < pixels.length; i += 4) {
    const [r, g, b] = [pixels[i]!, pixels[i + 1]!, pixels[i + 2]!];
    const most = Math.max(r, g, b);
    const least = Math.min(r, g, b);
    if (most >= WHITE) white++;
    if (least <= BLACK) black++;
    const lightness = (0.2126 * r + 0.7152 * g + 0.0722 * b) / 255;
    sum += lightness;
    squares += lightness * lightness;
    colour += (most - least) / 255;
  }
  const mean = sum / count;
  return {
    white: white / count,
    black: black / count,
    mean,
    contrast: Math.sqrt(Math.max(0, squares / count - mean * mean)),
    colour: colour / count,
  };
}

/** Darks are below this lightness, and above that one, where black shows no noise; 0 to 255. */
const DARK = 64;
const NEARLY_BLACK = 6;
/** Fewer dark px say nothing of noise. */
const LEAST_DARK = 400;
/** The mean absolute answer of the mask below to noise of one step. */
const ANSWER = 6 * Math.sqrt(Math.PI / 2) ** -1;

/** Lightness of a picture, 0 to 255. @param pixels  R, G, B, A bytes, encoded */
export const lightnessOf = (pixels: Uint8ClampedArray): Float32Array =>
  Float32Array.from(
    { length: pixels.length / 4 },
    (_, i) => 0.2126 * pixels[4 * i]! + 0.7152 * pixels[4 * i + 1]! + 0.0722 * pixels[4 * i + 2]!,
  );

/**
 * Measures detail and noise of a picture.
 *
 * @param lightness  0 to 255, as encoded
 * @see Immerkaer, "Fast noise variance estimation", CVIU 1996; on the darks alone
 */
export function detailNumbers(
  lightness: Float32Array,
  width: number,
  height: number,
): DetailNumbers {
  let steps = 0;
  let dark = 0;
  let answers = 0;
  let signal = 0;
  const at = (x: number, y: number): number => lightness[y * width + x]!;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const own = at(x, y);
      steps += (Math.abs(at(x + 1, y) - own) + Math.abs(at(x, y + 1) - own)) / 2;
      if (own > DARK || own < NEARLY_BLACK) continue;
      const corners = at(x - 1, y - 1) + at(x + 1, y - 1) + at(x - 1, y + 1) + at(x + 1, y + 1);
      const sides = at(x - 1, y) + at(x + 1, y) + at(x, y - 1) + at(x, y + 1);
      answers += Math.abs(corners - 2 * sides + 4 * own);
      signal += own;
      dark++;
    }
  const inner = Math.max(1, (width - 2) * (height - 2));
  const sharpness = steps / inner;
  if (dark < LEAST_DARK) return { sharpness };
  const noise = Math.max(0.02, answers / dark / ANSWER);
  return { sharpness, darkDb: 20 * Math.log10(signal / dark / noise) };
}
