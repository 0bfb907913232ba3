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
