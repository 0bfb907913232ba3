import type { View } from "../work/sessionState";

/** How sides are shown: beside each other, parted by a line, one after the other, or what differs. */
export type CompareMode = "beside" | "wipe" | "flicker" | "difference";

/** A side as it was rendered for the box it is shown in. */
export type Rendered = Pick<View, "pixels" | "width" | "height">;

/** Where the line of a wipe stands when nothing is said, of the width. */
export const MIDDLE = 0.5;

/** What two pictures of one size differ by, times a gain; grey is no difference. */
export function differenceOf(a: Rendered, b: Rendered, gain: number): ImageData {
  const width = Math.min(a.width, b.width);
  const height = Math.min(a.height, b.height);
  const out = new ImageData(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y * a.width + x) * 4;
      const j = (y * b.width + x) * 4;
      const k = (y * width + x) * 4;
      for (let c = 0; c < 3; c++)
        out.data[k + c] = 128 + gain * (b.pixels[j + c]! - a.pixels[i + c]!);
      out.data[k + 3] = 255;
    }
  return out;
}
