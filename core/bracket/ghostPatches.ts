import * as v from "valibot";
import { range } from "../math/range";
import type { GhostConfidence } from "./findGhosts";
import { clamp } from "../math/clamp";

const share = range(-0.5, 1.5);

/** Where the user drew: places are shares of the reference frame's width and height. */
export const areaEntries = {
  points: v.pipe(v.array(v.tuple([share, share])), v.minLength(1), v.maxLength(4000)),
  /** of a brush, share of the width */
  radius: range(0, 0.5),
  /** width of the soft border, share of the picture's width */
  soft: range(0, 0.2),
};

/**
 * An area of the result that the user gives to one frame. Places are shares of the reference
 * frame's width and height.
 */
export const GhostPatchSchema = v.object({
  id: v.string(),
  /** the frame's id, or its file's name */
  frame: v.string(),
  on: v.boolean(),
  /** a closed line round the area, or the middle of a brush stroke */
  shape: v.picklist(["outline", "brush"]),
  ...areaEntries,
});
export type GhostPatch = v.InferOutput<typeof GhostPatchSchema>;

/** A grid over the picture of which each sample is `scale` px wide. */
export interface ConfidenceGrid {
  width: number;
  height: number;
  scale: number;
}
type Confidences = Omit<GhostConfidence, "step" | "share"> & { scale: number; share: number };

/**
 * A frame's confidences with the ghost patches applied over them: all to the frame that a patch names,
 * none to the others. Later patches lie over earlier ones.
 *
 * @param confidences  what was found by itself, on the same grid
 */
export function withPatches(
  confidences: Confidences | undefined,
  names: readonly string[],
  patches: readonly GhostPatch[],
  grid: ConfidenceGrid,
): Confidences | undefined {
  const active = patches.filter((p) => p.on);
  if (!active.length) return confidences;
  const out =
    confidences?.confidences.slice() ?? new Uint8Array(grid.width * grid.height).fill(255);
  for (const p of active) {
    const own = names.includes(p.frame);
    const mask = patchMask(p, grid);
    // an exposure longer by 4 EV weighs 16 times as much: it has to step back steeply for the
    // border to lie in the middle
    for (let i = 0; i < out.length; i++) {
      const m = mask[i]!;
      if (m > 0)
        out[i] = own ? out[i]! + (255 - out[i]!) * (1 - (1 - m) ** 3) : out[i]! * (1 - m) ** 3;
    }
  }
  return { ...grid, confidences: out, share: confidences?.share ?? 0 };
}

/** How far each sample of a grid lies in a patch: 1 within, 0 outside, soft at its border. */
export function patchMask(
  patch: Pick<GhostPatch, "shape" | "points" | "radius" | "soft">,
  { width, height }: Pick<ConfidenceGrid, "width" | "height">,
): Float32Array {
  const mask = new Float32Array(width * height);
  const points = patch.points.map(([x, y]) => [x * width, y * height] as const);
  if (patch.shape === "outline" && points.length > 2) {
    for (let y = 0; y < height; y++) {
      // even-odd rule along the row's middle
      const cuts: number[] = [];
      for (const [i, [x0, y0]] of points.entries()) {
        const [x1, y1] = points[(i + 1) % points.length]!;
        const at = y + 0.5;
        if (y0 <= at !== y1 <= at) cuts.push(x0 + ((at - y0) / (y1 - y0)) * (x1 - x0));
      }
      cuts.sort((a, b) => a - b);
      for (let c = 0; c + 1 < cuts.length; c += 2)
        for (
          let x = Math.max(0, Math.round(cuts[c]!));
          x < Math.min(width, Math.round(cuts[c + 1]!));
          x++
        )
          mask[y * width + x] = 1;
    }
  } else {
    const r = Math.max(0.7, patch.radius * width);
    for (const [i, [x1, y1]] of points.entries()) {
      const [x0, y0] = points[Math.max(0, i - 1)]!;
      const dx = x1 - x0;
      const dy = y1 - y0;
      const length = dx * dx + dy * dy;
      for (
        let y = Math.max(0, Math.floor(Math.min(y0, y1) - r));
        y < Math.min(height, Math.max(y0, y1) + r + 1);
        y++
      )
        for (
          let x = Math.max(0, Math.floor(Math.min(x0, x1) - r));
          x < Math.min(width, Math.max(x0, x1) + r + 1);
          x++
        ) {
          const t = length ? clamp(((x + 0.5 - x0) * dx + (y + 0.5 - y0) * dy) / length, 0, 1) : 0;
          if (Math.hypot(x + 0.5 - x0 - t * dx, y + 0.5 - y0 - t * dy) <= r)
            mask[y * width + x] = 1;
        }
    }
  }
  const soft = Math.round(patch.soft * width);
  return soft > 0 ? boxed(boxed(mask, width, height, soft), width, height, soft) : mask;
}

/** Mean over 2 r + 1 in both directions, edges repeated, by running sums. */
function boxed(p: Float32Array, w: number, h: number, r: number): Float32Array {
  const pass = (
    src: Float32Array,
    length: number,
    step: number,
    lines: number,
    stride: number,
  ): Float32Array => {
    const out = new Float32Array(src.length);
    const n = 2 * r + 1;
    for (let l = 0; l < lines; l++) {
      const at = (i: number): number => src[l * stride + clamp(i, 0, length - 1) * step]!;
      let sum = 0;
      for (let i = -r; i <= r; i++) sum += at(i);
      for (let i = 0; i < length; i++) {
        out[l * stride + i * step] = Math.max(0, sum / n);
        sum += at(i + r + 1) - at(i - r);
      }
    }
    return out;
  };
  return pass(pass(p, w, 1, h, w), h, w, w, 1);
}
