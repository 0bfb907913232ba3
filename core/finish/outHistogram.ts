/** How a picture that goes out is spread over its levels. */
export interface OutHistogram {
  /** counts of red, green, blue, by `LEVELS` of the display's range */
  channels: readonly [number[], number[], number[]];
  /** shares of the pixels with a channel at its end, 0 to 1 */
  white: number;
  black: number;
}

export const LEVELS = 64;
/** Bytes of a channel that count as its ends. */
const WHITE_FROM = 254;
const BLACK_TO = 1;

/**
 * The levels of a picture.
 *
 * @param rgba  as it is shown; every other pixel of every other row is looked at
 */
export function outHistogram(rgba: Uint8Array, width: number, height: number): OutHistogram {
  const channels: [number[], number[], number[]] = [levels(), levels(), levels()];
  let [white, black, count] = [0, 0, 0];
  for (let y = 0; y < height; y += 2)
    for (let x = 0; x < width; x += 2) {
      const at = 4 * (y * width + x);
      const [r, g, b] = [rgba[at]!, rgba[at + 1]!, rgba[at + 2]!];
      channels[0][r >> 2]!++;
      channels[1][g >> 2]!++;
      channels[2][b >> 2]!++;
      if (Math.max(r, g, b) >= WHITE_FROM) white++;
      if (Math.max(r, g, b) <= BLACK_TO) black++;
      count++;
    }
  return { channels, white: white / Math.max(1, count), black: black / Math.max(1, count) };
}

const levels = (): number[] => new Array<number>(LEVELS).fill(0);
