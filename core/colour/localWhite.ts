import * as v from "valibot";
import { areaEntries, patchMask } from "../bracket/ghostPatches";
import { range } from "../math/range";
import { whiteBalanceGains, type WhiteBalance } from "./whiteBalance";
import { smoothstep } from "../math/smoothstep";

/**
 * A part of the picture that lies in another light and has a white of its own. Places are shares of
 * the reference frame's width and height.
 */
export const LocalWhiteSchema = v.object({
  id: v.string(),
  on: v.boolean(),
  /** round a part, over it with a brush, or fading from the first point to the last */
  shape: v.picklist(["outline", "brush", "gradient"]),
  ...areaEntries,
  temperature: range(1700, 25000),
  tint: range(-150, 150),
});
export type LocalWhite = v.InferOutput<typeof LocalWhiteSchema>;

/** What the renderer needs of it: where, and factors on light on top of the whole picture's. */
export interface LocalGains extends Pick<LocalWhite, "shape" | "points" | "radius" | "soft"> {
  gains: readonly [number, number, number];
}

/** The parts that are on, from the first that was drawn. */
export function localGains(parts: readonly LocalWhite[], whole: WhiteBalance): LocalGains[] {
  const base = whiteBalanceGains(whole);
  return parts
    .filter((p) => p.on)
    .map(({ shape, points, radius, soft, ...white }) => {
      const own = whiteBalanceGains(white);
      return {
        shape,
        points,
        radius,
        soft,
        gains: [own[0] / base[0], own[1] / base[1], own[2] / base[2]],
      };
    });
}

/** How far each sample of a grid lies in a part's light: 1 within, 0 outside. */
export function lightMask(
  { shape, points, radius, soft }: Omit<LocalGains, "gains">,
  grid: { width: number; height: number },
): Float32Array {
  if (shape !== "gradient") return patchMask({ shape, points, radius, soft }, grid);
  const { width, height } = grid;
  const mask = new Float32Array(width * height);
  const [x0, y0] = points[0]!;
  const [x1, y1] = points.at(-1)!;
  // in px of the grid, where a line across the way is square to it
  const dx = (x1 - x0) * width;
  const dy = (y1 - y0) * height;
  const length = Math.max(1e-6, dx * dx + dy * dy);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const along = (x + 0.5 - x0 * width) * dx + (y + 0.5 - y0 * height) * dy;
      mask[i] = 1 - smoothstep(along / length);
    }
  return mask;
}
